#include "show/formula_pieces.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <bit>
#include <cmath>
#include <nlohmann/json.hpp>
#include <utility>

#include "lattice/files/json.hpp"

namespace lattice {
namespace {

using Spot = WorkTables::Spot;

/// How often the first `length` pieces come, each time with every gap as much farther on.
struct Repetition {
  std::size_t times = 1;
  std::vector<std::vector<std::int64_t>> strides = {};  ///< of each gap of each of the pieces
};

Repetition repetition_of(std::span<const Piece> pieces, std::size_t length) {
  Repetition found;
  const auto moved = [&](std::size_t piece, std::size_t gap) {
    return pieces[piece].gaps[gap].offset - pieces[piece - length].gaps[gap].offset;
  };
  for (std::size_t at = length; at < pieces.size(); ++at) {
    const std::size_t within = at % length;
    if (!pieces[at].is_like(pieces[within])) break;
    const std::size_t gaps = pieces[at].gaps.size();
    if (at < 2 * length) found.strides.emplace_back(gaps);
    std::vector<std::int64_t>& strides = found.strides[within];
    bool is_even = true;
    for (std::size_t gap = 0; gap < gaps; ++gap) {
      if (at < 2 * length) strides[gap] = moved(at, gap);
      is_even = is_even && moved(at, gap) == strides[gap];
    }
    if (!is_even) break;
    if (within == length - 1) ++found.times;
  }
  return found;
}

/// So many pieces at a time written as one where they come again and again; the others as they are.
std::vector<Piece> folded(const std::vector<Piece>& pieces, std::size_t length) {
  constexpr std::size_t worth_folding = 3;
  std::vector<Piece> result;
  for (std::size_t at = 0; at < pieces.size();) {
    const auto rest = std::span(pieces).subspan(at);
    const Repetition found = repetition_of(rest, std::min(length, rest.size()));
    const std::size_t count = found.times * length;
    if (found.times == 1 || count < worth_folding) {
      result.push_back(pieces[at++]);
      continue;
    }
    Piece each{.skeleton = fmt::format("[\"each\",{}", found.times)};
    for (std::size_t piece = 0; piece < length; ++piece) {
      each.skeleton += ",";
      each.append(rest[piece]);
    }
    each.skeleton += "]";
    auto gap = each.gaps.begin();
    for (const std::vector<std::int64_t>& strides : found.strides) {
      for (const std::int64_t stride : strides) {
        gap->along.insert(gap->along.begin(), stride);
        ++gap;
      }
    }
    result.push_back(std::move(each));
    at += count;
  }
  return result;
}

/// Terms of a list, with those that come again and again folded: along a row, row by row, picture
/// by picture, with the few at each border.
std::vector<Piece> folded(std::vector<Piece> pieces) {
  constexpr std::size_t longest = 8;
  for (std::size_t length = 1; length <= longest && 2 * length <= pieces.size(); ++length) {
    std::vector<Piece> fewer = folded(pieces, length);
    if (fewer.size() == pieces.size()) continue;
    pieces = std::move(fewer);
    length = 0;
  }
  return pieces;
}

constexpr std::size_t long_list = 16;
constexpr std::size_t most_met = 50'000;  ///< parts in the lists that are kept

bool are_same(const Formula& a, const Formula& b) {
  return a.parts().data() == b.parts().data();
}

std::string head_of(const Formula& formula) {
  return fmt::format("\"{}\"", formula_kind_words.of(formula.kind()));
}

Piece plain(std::string skeleton) {
  return {.skeleton = std::move(skeleton)};
}
Piece gap(Spot spot) {
  return {.skeleton = "\"#\"", .gaps = {{.table = spot.table, .offset = spot.offset}}};
}

/// A whole number that something has to be: which place is meant, and so another one at each.
bool is_place(const Condition& condition) {
  const Formula& right = *condition.right;
  return condition.relation == Condition::Relation::equal &&
         right.kind() == Formula::Kind::number && right.evaluate() == std::trunc(right.evaluate());
}
Piece number_gap(double number) {
  return {.skeleton = "\"#\"",
          .gaps = {{.table = std::nullopt, .offset = static_cast<std::int64_t>(number)}}};
}

}  // namespace

Dissector::Dissector(const WorkTables& tables, const Making& making)
    : tables_(tables), making_(making), inside_{making.inside, 0} {}

Piece Dissector::dissect(std::int64_t place) {
  inside_.offset = place;
  spelled_out_.clear();
  return fresh_piece_of(making_.formula(place));
}

Piece Dissector::piece_of(const Formula& formula) {
  if (formula.parts().size() < long_list) return fresh_piece_of(formula);
  const auto known = met_.find(formula.parts().data());
  if (known != met_.end() && std::ranges::equal(known->second.before, spelled_out_, are_same)) {
    spelled_out_ = known->second.after;
    return known->second.piece;
  }
  std::vector<Formula> before = spelled_out_;
  Piece piece = fresh_piece_of(formula);
  parts_met_ += formula.parts().size();
  if (parts_met_ > most_met) {
    met_.clear();
    parts_met_ = formula.parts().size();
  }
  met_.insert_or_assign(formula.parts().data(),
                        Met{formula, std::move(before), spelled_out_, piece});
  return piece;
}

Piece Dissector::fresh_piece_of(const Formula& formula) {
  using Kind = Formula::Kind;
  switch (formula.kind()) {
    case Kind::number:
      return plain(json_text(formula.evaluate()));
    case Kind::cell:
      return gap(tables_.find(formula.cell(), inside_));
    case Kind::sum:
    case Kind::difference:
    case Kind::product:
    case Kind::quotient:
    case Kind::negation:
    case Kind::power:
      return list(head_of(formula), formula.parts());
    case Kind::function:
      return list(head_of(formula) + "," + json_text(formula.function_name()), formula.parts());
    case Kind::choice:
      return choice(formula);
    case Kind::pick:
      return pick(formula);
    case Kind::shorthand:
      return shorthand(formula);
  }
  return {};
}

Piece Dissector::choice(const Formula& formula) {
  using Relation = Condition::Relation;
  constexpr Words<Relation> signs = {
      {Relation::above, ">"}, {Relation::at_least, "≥"}, {Relation::equal, "="}};
  const Condition& condition = formula.condition();
  Piece whole = plain(fmt::format("[{},\"{}\"", head_of(formula), signs.of(condition.relation)));
  const auto add = [&](const Piece& part) {
    whole.skeleton += ",";
    whole.append(part);
  };
  add(piece_of(*condition.left));
  add(is_place(condition) ? number_gap(condition.right->evaluate()) : piece_of(*condition.right));
  for (const Formula& part : formula.parts())
    add(piece_of(part));
  whole.skeleton += "]";
  return whole;
}

Piece Dissector::pick(const Formula& formula) {
  Piece whole = plain("[" + head_of(formula) + ",");
  whole.append(piece_of(formula.which()));
  for (const Piece& option : folded(pieces_of(formula.parts()))) {
    whole.skeleton += ",";
    whole.append(option);
  }
  whole.skeleton += "]";
  return whole;
}

Piece Dissector::shorthand(const Formula& formula) {
  if (const auto spot = tables_.find_shorthand(formula.function_name(), inside_)) return gap(*spot);
  const auto same = [&](const Formula& each) { return are_same(each, formula); };
  const auto known = std::ranges::find_if(spelled_out_, same);
  if (known != spelled_out_.end())
    return plain(fmt::format("[\"again\",{}]", spelled_out_.end() - known));
  spelled_out_.push_back(formula);
  return list(head_of(formula) + "," + json_text(formula.function_name()), formula.parts());
}

Piece Dissector::list(const std::string& head, std::span<const Formula> parts) {
  Piece whole = plain("[" + head);
  for (const Piece& term : folded(pieces_of(parts))) {
    whole.skeleton += ",";
    whole.append(term);
  }
  whole.skeleton += "]";
  return whole;
}

std::vector<Piece> Dissector::pieces_of(std::span<const Formula> parts) {
  std::vector<Piece> pieces;
  pieces.reserve(parts.size());
  for (const Formula& part : parts) {
    if (pieces.empty() || !add_one_like_the_last(part, *(&part - 1), pieces))
      pieces.push_back(piece_of(part));
  }
  return pieces;
}

bool Dissector::add_one_like_the_last(const Formula& formula, const Formula& last,
                                      std::vector<Piece>& pieces) const {
  std::vector<Gap> gaps;
  gaps.reserve(pieces.back().gaps.size());
  if (!differs_in_cells_alone(formula, last, gaps)) return false;
  pieces.push_back({.skeleton = pieces.back().skeleton, .gaps = std::move(gaps)});
  return true;
}

bool Dissector::differs_in_cells_alone(const Formula& formula, const Formula& other,
                                       std::vector<Gap>& gaps) const {
  using Kind = Formula::Kind;
  const Kind kind = formula.kind();
  if (kind != other.kind()) return false;
  if (kind == Kind::number)
    return std::bit_cast<std::uint64_t>(formula.evaluate()) ==
           std::bit_cast<std::uint64_t>(other.evaluate());
  if (kind == Kind::cell) {
    const Spot spot = tables_.find(formula.cell(), inside_);
    gaps.push_back({.table = spot.table, .offset = spot.offset});
    return true;
  }
  // Of more parts some may be folded; and what is chosen or has a short name depends on more.
  constexpr std::size_t never_folded = 2;
  if (kind == Kind::choice || kind == Kind::pick || kind == Kind::shorthand) return false;
  if (kind == Kind::function && formula.function_name() != other.function_name()) return false;
  const std::span<const Formula> parts = formula.parts();
  const std::span<const Formula> others = other.parts();
  if (parts.size() != others.size() || parts.size() > never_folded) return false;
  for (std::size_t part = 0; part < parts.size(); ++part) {
    if (!differs_in_cells_alone(parts[part], others[part], gaps)) return false;
  }
  return true;
}

}  // namespace lattice
