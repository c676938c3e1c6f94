#include "show/formula_patterns.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <cstdint>
#include <optional>
#include <ranges>
#include <span>

#include "lattice/tensor/random.hpp"
#include "show/formula_pieces.hpp"

namespace lattice {
namespace {

/// Numbers of one table whose formulas differ in nothing but where their gaps begin.
struct Group {
  Piece piece;                             ///< of the first
  std::vector<std::int64_t> places = {};   ///< of the numbers, from the first to the last
  std::vector<std::int64_t> offsets = {};  ///< of each gap, a row for each place
};

/// Every so many positions from one on, along an axis.
struct Positions {
  std::int64_t from;
  std::int64_t count = 1;
  std::int64_t step = 1;
};

/// Places that form a box, in which the offset of every gap goes up evenly along every axis.
struct Box {
  std::vector<Positions> axes;
  std::vector<std::int64_t> offsets;               ///< of each gap, at the first place
  std::vector<std::vector<std::int64_t>> strides;  ///< of each gap, along each axis
};

/// Divides the places of a group into boxes: the border of a picture is a few, however long it is.
class Boxes {
 public:
  Boxes(const Group& group, const Shape& shape)
      : group_(group),
        shape_(shape),
        gaps_(group.piece.gaps.size()),
        row_of_(static_cast<std::size_t>(shape.count()), none) {
    for (std::size_t row = 0; row < group.places.size(); ++row)
      row_of_[static_cast<std::size_t>(group.places[row])] = static_cast<std::int64_t>(row);
  }

  [[nodiscard]] std::vector<Box> all() {
    std::vector<Box> boxes;
    for (const std::int64_t place : group_.places) {
      if (is_left(place)) boxes.push_back(take(place));
    }
    return boxes;
  }

 private:
  static constexpr std::int64_t none = -1;

  [[nodiscard]] bool is_left(std::int64_t place) const {
    return row_of_[static_cast<std::size_t>(place)] != none;
  }

  [[nodiscard]] std::int64_t offset(std::int64_t place, std::size_t gap) const {
    const auto row = static_cast<std::size_t>(row_of_[static_cast<std::size_t>(place)]);
    return group_.offsets[row * gaps_ + gap];
  }

  /// Whether all places are left so much farther on, with every gap as much farther on.
  [[nodiscard]] bool comes_again(const std::vector<std::int64_t>& places, std::int64_t farther,
                                 const std::vector<std::int64_t>& moved) const {
    return std::ranges::all_of(places, [&](std::int64_t place) {
      if (!is_left(place + farther)) return false;
      for (std::size_t gap = 0; gap < gaps_; ++gap) {
        if (offset(place + farther, gap) != offset(place, gap) + moved[gap]) return false;
      }
      return true;
    });
  }

  /// The largest box from its first place, grown along the last axis first.
  [[nodiscard]] Box take(std::int64_t first) {
    const Index at = shape_.index(first);
    Box box{.axes = {}, .offsets = {}, .strides = {}};
    for (int axis = 0; axis < shape_.rank(); ++axis)
      box.axes.push_back({.from = at[axis]});
    box.strides.resize(gaps_, std::vector<std::int64_t>(box.axes.size()));
    for (std::size_t gap = 0; gap < gaps_; ++gap)
      box.offsets.push_back(offset(first, gap));
    std::vector<std::int64_t> places = {first};
    std::int64_t one_on = 1;
    for (int axis = shape_.rank() - 1; axis >= 0; --axis) {
      grow(box, places, axis, one_on);
      one_on *= shape_[axis];
    }
    for (const std::int64_t place : places)
      row_of_[static_cast<std::size_t>(place)] = none;
    return box;
  }

  void grow(Box& box, std::vector<std::int64_t>& places, int axis, std::int64_t one_on) const {
    Positions& positions = box.axes[static_cast<std::size_t>(axis)];
    const std::int64_t first = places.front();
    std::int64_t step = 1;
    const std::int64_t left = shape_[axis] - positions.from;
    while (step < left && !is_left(first + step * one_on))
      ++step;
    if (step >= left) return;
    std::vector<std::int64_t> moved(gaps_);
    for (std::size_t gap = 0; gap < gaps_; ++gap)
      moved[gap] = offset(first + step * one_on, gap) - offset(first, gap);
    const std::int64_t farther = step * one_on;
    std::vector<std::int64_t> layer = places;
    while (positions.count * step < left && comes_again(layer, farther, moved)) {
      for (std::int64_t& place : layer)
        place += farther;
      places.insert(places.end(), layer.begin(), layer.end());
      ++positions.count;
    }
    if (positions.count == 1) return;
    positions.step = step;
    for (std::size_t gap = 0; gap < gaps_; ++gap)
      box.strides[gap][static_cast<std::size_t>(axis)] = moved[gap];
  }

  const Group& group_;
  const Shape& shape_;
  std::size_t gaps_;
  std::vector<std::int64_t> row_of_;  ///< in the group, by place; none where it was taken
};

/// A box of places, and what the formulas there have in common.
struct Pattern {
  Piece piece;
  Box box;
};

/// Divides the places of a shape into boxes where the formulas go by axis: which ones there are is
/// seen along each axis alone, through a place whose formula has terms.
class BoxesByAxis {
 public:
  BoxesByAxis(Dissector& dissector, const Shape& shape) : dissector_(dissector), shape_(shape) {}

  /// All boxes; nothing where a place does not have the formula that its box says, or where there
  /// would be about as many boxes as places.
  [[nodiscard]] std::optional<std::vector<Pattern>> all() {
    const std::optional<Index> base = place_with_terms();
    if (!base) return std::nullopt;
    std::vector<std::vector<Positions>> along;
    std::vector<std::int64_t> counts;
    along.reserve(static_cast<std::size_t>(shape_.rank()));
    counts.reserve(static_cast<std::size_t>(shape_.rank()));
    for (int axis = 0; axis < shape_.rank(); ++axis) {
      along.push_back(positions_along(axis, *base));
      counts.push_back(std::ssize(along.back()));
    }
    const Shape boxes{std::span<const std::int64_t>(counts)};
    if (2 * boxes.count() > shape_.count()) return std::nullopt;  // One by one is sooner done.
    std::vector<Pattern> patterns;
    patterns.reserve(static_cast<std::size_t>(boxes.count()));
    for (std::int64_t box = 0; box < boxes.count(); ++box) {
      const Index which = boxes.index(box);
      std::vector<Positions> axes;
      axes.reserve(along.size());
      for (std::size_t axis = 0; axis < along.size(); ++axis)
        axes.push_back(along[axis][static_cast<std::size_t>(which[static_cast<int>(axis)])]);
      std::optional<Pattern> pattern = pattern_in(std::move(axes));
      if (!pattern) return std::nullopt;
      patterns.push_back(*std::move(pattern));
    }
    return patterns;
  }

 private:
  [[nodiscard]] Piece at(const Index& place) { return dissector_.dissect(shape_.offset(place)); }

  /// A place whose formula has terms: from one that has none, since no window comes to it, those
  /// along the axes cannot be told apart. Nothing where no place has any.
  [[nodiscard]] std::optional<Index> place_with_terms() {
    constexpr int tried = 16;
    constexpr std::size_t surely_all = 8;  // A bias that stays where no window comes has 1.
    Random random(1);
    Index best = Index::zeros(shape_.rank());
    for (int axis = 0; axis < shape_.rank(); ++axis)
      best[axis] = shape_[axis] / 2;
    std::size_t most = at(best).gaps.size();
    for (int trial = 0; trial < tried && most < surely_all; ++trial) {
      const Index place = shape_.index(random.below(shape_.count()));
      const std::size_t cells = at(place).gaps.size();
      if (cells <= most) continue;
      most = cells;
      best = place;
    }
    if (most == 0) return std::nullopt;
    return best;
  }

  /// The positions along an axis, from where formulas are alike in even steps.
  [[nodiscard]] std::vector<Positions> positions_along(int axis, Index place) {
    std::vector<Piece> pieces;
    pieces.reserve(static_cast<std::size_t>(shape_[axis]));
    for (std::int64_t position = 0; position < shape_[axis]; ++position) {
      place[axis] = position;
      pieces.push_back(at(place));
    }
    std::vector<Positions> found;
    std::vector<bool> is_taken(pieces.size(), false);
    for (std::size_t from = 0; from < pieces.size(); ++from) {
      if (is_taken[from]) continue;
      std::size_t second = from + 1;
      while (second < pieces.size() && (is_taken[second] || !pieces[second].is_like(pieces[from])))
        ++second;
      const std::size_t step = second - from;
      std::size_t last = from;
      while (last + step < pieces.size() && !is_taken[last + step] &&
             goes_on(pieces[from], pieces[second], pieces[last], pieces[last + step])) {
        last += step;
        is_taken[last] = true;
      }
      const auto count = static_cast<std::int64_t>((last - from) / step) + 1;
      found.push_back({.from = static_cast<std::int64_t>(from),
                       .count = count,
                       .step = count == 1 ? 1 : static_cast<std::int64_t>(step)});
    }
    return found;
  }

  /// Whether every gap moves from the last to the next as it did from the first to the second.
  static bool goes_on(const Piece& first, const Piece& second, const Piece& last,
                      const Piece& next) {
    if (!next.is_like(first)) return false;
    for (std::size_t gap = 0; gap < first.gaps.size(); ++gap) {
      if (next.gaps[gap].offset - last.gaps[gap].offset !=
          second.gaps[gap].offset - first.gaps[gap].offset)
        return false;
    }
    return true;
  }

  /// The pattern of the places at these positions; nothing where a corner of their box, or its
  /// middle, is none of it.
  [[nodiscard]] std::optional<Pattern> pattern_in(std::vector<Positions> axes) {
    const auto rank = axes.size();
    Index first = Index::zeros(shape_.rank());
    for (std::size_t axis = 0; axis < rank; ++axis)
      first[static_cast<int>(axis)] = axes[axis].from;
    Pattern pattern{.piece = at(first),
                    .box = {.axes = std::move(axes), .offsets = {}, .strides = {}}};
    const std::vector<Gap>& gaps = pattern.piece.gaps;
    for (const Gap& gap : gaps) {
      pattern.box.offsets.push_back(gap.offset);
      pattern.box.strides.emplace_back(rank);
    }
    for (std::size_t axis = 0; axis < rank; ++axis) {
      const Positions& positions = pattern.box.axes[axis];
      if (positions.count == 1) continue;
      Index next = first;
      next[static_cast<int>(axis)] += positions.step;
      const Piece piece = at(next);
      if (!piece.is_like(pattern.piece)) return std::nullopt;
      for (std::size_t gap = 0; gap < gaps.size(); ++gap)
        pattern.box.strides[gap][axis] = piece.gaps[gap].offset - gaps[gap].offset;
    }
    for (std::uint32_t corner = 1; corner < (1U << rank); ++corner) {
      const bool is_another = [&] {
        for (std::size_t axis = 0; axis < rank; ++axis) {
          if ((corner >> axis & 1U) != 0 && pattern.box.axes[axis].count == 1) return false;
        }
        return true;
      }();
      if (is_another && !is_told(pattern, [&](std::size_t axis) {
            return (corner >> axis & 1U) != 0 ? pattern.box.axes[axis].count - 1 : 0;
          }))
        return std::nullopt;
    }
    if (!is_told(pattern, [&](std::size_t axis) { return pattern.box.axes[axis].count / 2; }))
      return std::nullopt;
    return pattern;
  }

  /// Whether a pattern tells the formula of a place in its box.
  template <class PositionAlong>
  [[nodiscard]] bool is_told(const Pattern& pattern, PositionAlong position_along) {
    Index place = Index::zeros(shape_.rank());
    for (std::size_t axis = 0; axis < pattern.box.axes.size(); ++axis) {
      const Positions& positions = pattern.box.axes[axis];
      place[static_cast<int>(axis)] = positions.from + position_along(axis) * positions.step;
    }
    const Piece piece = at(place);
    if (!piece.is_like(pattern.piece)) return false;
    for (std::size_t gap = 0; gap < piece.gaps.size(); ++gap) {
      std::int64_t offset = pattern.box.offsets[gap];
      for (std::size_t axis = 0; axis < pattern.box.axes.size(); ++axis)
        offset += position_along(axis) * pattern.box.strides[gap][axis];
      if (piece.gaps[gap].offset != offset) return false;
    }
    return true;
  }

  Dissector& dissector_;
  const Shape& shape_;
};

/// The number of its table, or null.
std::string name_of(const Gap& gap) {
  return gap.table ? fmt::format("{}", *gap.table) : "null";
}

/// `[0,4,1]`, without the zeros at its end.
std::string list_of(std::vector<std::int64_t> numbers) {
  while (!numbers.empty() && numbers.back() == 0)
    numbers.pop_back();
  return fmt::format("[{}]", fmt::join(numbers, ","));
}

std::string text_of(const Pattern& pattern, const Shape& shape, Dictionary& skeletons) {
  const auto& [piece, box] = pattern;
  std::vector<std::string> gaps;
  for (std::size_t gap = 0; gap < piece.gaps.size(); ++gap) {
    const std::string by_place = list_of(box.strides[gap]);
    const std::string by_term = list_of(piece.gaps[gap].along);
    const std::string strides = by_term != "[]"    ? fmt::format(",{},{}", by_place, by_term)
                                : by_place != "[]" ? "," + by_place
                                                   : "";
    gaps.push_back(fmt::format("[{},{}{}]", name_of(piece.gaps[gap]), box.offsets[gap], strides));
  }
  std::vector<std::string> axes;
  std::int64_t places = 1;
  for (const Positions& positions : box.axes) {
    axes.push_back(fmt::format("[{},{},{}]", positions.from, positions.count, positions.step));
    places *= positions.count;
  }
  const std::string where =
      places == shape.count() ? "" : fmt::format(",[{}]", fmt::join(axes, ","));
  return fmt::format("[{},[{}]{}]", skeletons.number_of(piece.skeleton), fmt::join(gaps, ","),
                     where);
}

/// What tells apart formulas that cannot share a pattern.
std::string kind_of(const Piece& piece) {
  std::string kind = piece.skeleton;
  for (const Gap& gap : piece.gaps)
    kind += fmt::format(" {}:{}", name_of(gap), fmt::join(gap.along, ","));
  return kind;
}

/// The patterns of all places, each of whose formulas is asked for.
std::vector<Pattern> found_one_by_one(Dissector& dissector, const Shape& shape) {
  std::map<std::string, std::size_t> numbers;
  std::vector<Group> groups;
  for (std::int64_t place = 0; place < shape.count(); ++place) {
    Piece piece = dissector.dissect(place);
    const auto [entry, is_new] = numbers.emplace(kind_of(piece), groups.size());
    if (is_new) groups.push_back({.piece = piece});
    Group& group = groups[entry->second];
    group.places.push_back(place);
    for (const Gap& gap : piece.gaps)
      group.offsets.push_back(gap.offset);
  }
  std::vector<Pattern> patterns;
  for (const Group& group : groups) {
    for (Box& box : Boxes(group, shape).all())
      patterns.push_back({group.piece, std::move(box)});
  }
  return patterns;
}

}  // namespace

std::size_t Dictionary::number_of(const std::string& text) {
  const auto [entry, is_new] = numbers_.emplace(text, texts_.size());
  if (is_new) texts_.push_back(text);
  return entry->second;
}

std::string patterns_of(const WorkTables& tables, std::size_t table, Dictionary& skeletons) {
  return patterns_of(tables,
                     {.shape = tables[table].numbers.shape(),
                      .formula =
                          [&](std::int64_t offset) {
                            return tables.made({table, offset});
                          },
                      .goes_by_axis = tables.goes_by_axis(table),
                      .inside = table},
                     skeletons);
}

std::string patterns_of(const WorkTables& tables, const Making& making, Dictionary& skeletons) {
  Dissector dissector(tables, making);
  std::optional<std::vector<Pattern>> patterns;
  if (making.goes_by_axis) patterns = BoxesByAxis(dissector, making.shape).all();
  if (!patterns) patterns = found_one_by_one(dissector, making.shape);
  std::vector<std::string> texts;
  texts.reserve(patterns->size());
  for (const Pattern& pattern : *patterns)
    texts.push_back(text_of(pattern, making.shape, skeletons));
  return fmt::format("[{}]", fmt::join(texts, ","));
}

}  // namespace lattice
