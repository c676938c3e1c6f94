#pragma once

#include <functional>
#include <map>
#include <string>
#include <vector>

#include "lattice/text/words.hpp"
#include "show/work_tables.hpp"

namespace lattice {

/// What kinds of formulas are called in a skeleton.
inline constexpr Words<Formula::Kind> formula_kind_words = {
    {Formula::Kind::sum, "+"},        {Formula::Kind::difference, "-"},
    {Formula::Kind::product, "*"},    {Formula::Kind::quotient, "/"},
    {Formula::Kind::negation, "neg"}, {Formula::Kind::power, "^"},
    {Formula::Kind::function, "f"},   {Formula::Kind::choice, "if"},
    {Formula::Kind::pick, "pick"},    {Formula::Kind::shorthand, "let"}};

/// Texts that are written once and referred to by their number.
class Dictionary {
 public:
  /// The number of a text; a new one is added.
  [[nodiscard]] std::size_t number_of(const std::string& text);

  /// The texts in the order of their numbers.
  [[nodiscard]] const std::vector<std::string>& texts() const { return texts_; }

 private:
  std::map<std::string, std::size_t> numbers_;
  std::vector<std::string> texts_;
};

/// How all numbers of a calculated table are made, as JSON: a list that grows with the kinds of
/// places in the table, not with its numbers.
///
/// Numbers that are made alike share a skeleton: the formula with a gap, `"#"`, for each cell.
/// `["each", n, term…]` stands for the terms n times over, and `["again", n]` for what the n-th
/// short name before it stands for.
///
/// An entry is [skeleton, [gap…]], or [skeleton, [gap…], [[from, count, step]…]] where it is that
/// of a box of places alone. What fills a gap is told for all of them at once, as
/// [table, offset, [stride…], [stride…]]: the offset in that table goes up by a stride for each
/// position along each axis of the box, and by a stride for each time in each `each` around the
/// gap, the outermost first. Strides of 0 at the end are left out. Where the table is null, the gap
/// is filled with the offset itself: a place that something is compared with.
///
/// Where formulas go by axis (`OperationNature::goes_by_axis`), those along each axis are asked
/// for, and those at the corners and in the middle of each box that this gives; else that of each
/// number.
[[nodiscard]] std::string patterns_of(const WorkTables& tables, std::size_t table,
                                      Dictionary& skeletons);

/// Other numbers than those of a table, and how they are made.
struct Making {
  Shape shape;                                          ///< in which they lie
  std::function<Formula(std::int64_t offset)> formula;  ///< of each of them
  bool goes_by_axis;
  std::size_t inside;  ///< a table that stands where they do: what a rule remembers is looked up
                       ///< beside it
};
[[nodiscard]] std::string patterns_of(const WorkTables& tables, const Making& making,
                                      Dictionary& skeletons);

}  // namespace lattice
