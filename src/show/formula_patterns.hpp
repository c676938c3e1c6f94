#pragma once

#include <map>
#include <string>
#include <vector>

#include "show/work_tables.hpp"

namespace lattice {

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

/// How all numbers of a calculated table are made, as JSON. Numbers that are made alike share a
/// skeleton: the formula with a gap, `"#"`, for each cell, and `["again", n]` where what the n-th
/// short name stands for comes once more. What fills a gap is told for all of them at once, as
/// [table, offset, stride…]: the offset in that table goes up by a stride for each place along each
/// axis. Where there is no such rule, it is [table, [offset, …]].
///
/// The whole is a list of [skeleton, [gap…]], or [skeleton, [gap…], [place…]] where the skeleton is
/// that of some places alone. Each number's own formula is asked for, and the rule kept only where
/// it fits every one.
[[nodiscard]] std::string patterns_of(const WorkTables& tables, std::size_t table,
                                      Dictionary& skeletons);

}  // namespace lattice
