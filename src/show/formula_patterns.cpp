#include "show/formula_patterns.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <nlohmann/json.hpp>
#include <optional>

#include "lattice/files/json.hpp"

namespace lattice {
namespace {

using Spot = WorkTables::Spot;

/// A formula taken apart: its skeleton, and what fills the gaps.
class Dissection {
 public:
  Dissection(const WorkTables& tables, Spot inside) : tables_(&tables), inside_(inside) {
    const Formula whole = tables.made(inside);
    take(whole);
  }

  [[nodiscard]] const std::string& skeleton() const { return skeleton_; }
  [[nodiscard]] const std::vector<Spot>& gaps() const { return gaps_; }

  /// What tells apart formulas that cannot share a pattern.
  [[nodiscard]] std::string kind() const {
    std::string kind = skeleton_;
    for (const Spot& gap : gaps_)
      kind += fmt::format(" {}", gap.table);
    return kind;
  }

 private:
  void gap(Spot spot) {
    skeleton_ += "\"#\"";
    gaps_.push_back(spot);
  }

  void list(const std::string& head, std::span<const Formula> parts) {
    skeleton_ += "[" + head;
    for (const Formula& part : parts) {
      skeleton_ += ",";
      take(part);
    }
    skeleton_ += "]";
  }

  void take(const Formula& formula) {
    using Kind = Formula::Kind;
    switch (formula.kind()) {
      case Kind::number:
        skeleton_ += json_text(formula.evaluate());
        return;
      case Kind::cell:
        gap(tables_->find(formula.cell(), inside_));
        return;
      case Kind::sum:
        list("\"+\"", formula.parts());
        return;
      case Kind::difference:
        list("\"-\"", formula.parts());
        return;
      case Kind::product:
        list("\"*\"", formula.parts());
        return;
      case Kind::quotient:
        list("\"/\"", formula.parts());
        return;
      case Kind::negation:
        list("\"neg\"", formula.parts());
        return;
      case Kind::power:
        list("\"^\"", formula.parts());
        return;
      case Kind::function:
        list("\"f\"," + json_text(formula.function_name()), formula.parts());
        return;
      case Kind::choice: {
        constexpr std::array<std::string_view, 3> signs = {">", "≥", "="};
        const Condition& condition = formula.condition();
        skeleton_ +=
            fmt::format("[\"if\",\"{}\",", signs.at(static_cast<std::size_t>(condition.relation)));
        take(*condition.left);
        skeleton_ += ",";
        take(*condition.right);
        for (const Formula& part : formula.parts()) {
          skeleton_ += ",";
          take(part);
        }
        skeleton_ += "]";
        return;
      }
      case Kind::shorthand:
        take_shorthand(formula);
        return;
    }
  }

  /// What a short name stands for is spelled out where it comes first: a softmax has its largest
  /// score in every term, and would else be as long as its terms are many, times two.
  void take_shorthand(const Formula& formula) {
    if (const auto spot = tables_->find_shorthand(formula.function_name(), inside_))
      return gap(*spot);
    const auto [entry, is_new] = spelled_out_.emplace(formula.parts().data(), spelled_out_.size());
    if (is_new) {
      list("\"let\"," + json_text(formula.function_name()), formula.parts());
    } else {
      skeleton_ += fmt::format("[\"again\",{}]", entry->second);
    }
  }

  const WorkTables* tables_;
  Spot inside_;
  std::map<const Formula*, std::size_t> spelled_out_;  ///< by what they stand for
  std::string skeleton_;
  std::vector<Spot> gaps_;
};

/// Numbers of one table whose formulas have the same skeleton and the same tables in the gaps.
struct Group {
  std::string skeleton;
  std::vector<std::size_t> tables = {};                 ///< of each gap
  std::vector<std::int64_t> places = {};                ///< of the numbers
  std::vector<std::vector<std::int64_t>> offsets = {};  ///< for each gap, one a place
};

/// The rule offset = base + Σ stride · position that gives every offset; nothing when there is
/// none.
std::optional<std::vector<std::int64_t>> rule_of(const Shape& shape,
                                                 const std::vector<std::int64_t>& offsets) {
  std::vector<std::int64_t> rule = {offsets.front()};
  for (int axis = 0; axis < shape.rank(); ++axis) {
    Index one = Index::zeros(shape.rank());
    if (shape[axis] > 1) one[axis] = 1;
    rule.push_back(offsets[static_cast<std::size_t>(shape.offset(one))] - rule.front());
  }
  for (std::size_t place = 0; place < offsets.size(); ++place) {
    const Index at = shape.index(static_cast<std::int64_t>(place));
    std::int64_t offset = rule.front();
    for (int axis = 0; axis < shape.rank(); ++axis)
      offset += rule[static_cast<std::size_t>(axis) + 1] * at[axis];
    if (offset != offsets[place]) return std::nullopt;
  }
  while (rule.size() > 1 && rule.back() == 0)
    rule.pop_back();
  return rule;
}

std::string text_of(const Group& group, const Shape& shape, Dictionary& skeletons) {
  const bool is_whole = std::ssize(group.places) == shape.count();
  std::vector<std::string> gaps;
  for (std::size_t gap = 0; gap < group.tables.size(); ++gap) {
    const auto rule = is_whole ? rule_of(shape, group.offsets[gap]) : std::nullopt;
    gaps.push_back(
        rule ? fmt::format("[{},{}]", group.tables[gap], fmt::join(*rule, ","))
             : fmt::format("[{},[{}]]", group.tables[gap], fmt::join(group.offsets[gap], ",")));
  }
  const std::string places = is_whole ? "" : fmt::format(",[{}]", fmt::join(group.places, ","));
  return fmt::format("[{},[{}]{}]", skeletons.number_of(group.skeleton), fmt::join(gaps, ","),
                     places);
}

}  // namespace

std::size_t Dictionary::number_of(const std::string& text) {
  const auto [entry, is_new] = numbers_.emplace(text, texts_.size());
  if (is_new) texts_.push_back(text);
  return entry->second;
}

std::string patterns_of(const WorkTables& tables, std::size_t table, Dictionary& skeletons) {
  const Shape& shape = tables[table].numbers.shape();
  std::map<std::string, std::size_t> numbers;
  std::vector<Group> groups;
  for (std::int64_t place = 0; place < shape.count(); ++place) {
    const Dissection formula(tables, {table, place});
    const auto [entry, is_new] = numbers.emplace(formula.kind(), groups.size());
    if (is_new) {
      Group fresh{.skeleton = formula.skeleton()};
      for (const Spot& gap : formula.gaps())
        fresh.tables.push_back(gap.table);
      fresh.offsets.resize(fresh.tables.size());
      groups.push_back(std::move(fresh));
    }
    Group& group = groups[entry->second];
    group.places.push_back(place);
    for (std::size_t gap = 0; gap < formula.gaps().size(); ++gap)
      group.offsets[gap].push_back(formula.gaps()[gap].offset);
  }
  std::vector<std::string> texts;
  texts.reserve(groups.size());
  for (const Group& group : groups)
    texts.push_back(text_of(group, shape, skeletons));
  return fmt::format("[{}]", fmt::join(texts, ","));
}

}  // namespace lattice
