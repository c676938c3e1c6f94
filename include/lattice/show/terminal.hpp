#pragma once

#include <string>
#include <string_view>
#include <vector>

#include "lattice/learning/worked_example.hpp"

/// Text for a terminal: ruled paper with a margin, at most `page_width` columns wide.
namespace lattice {

/// How text for a terminal is written.
struct TerminalStyle {
  bool colour = false;          ///< teal above 0, plum below, amber for headings
  int digits = usual_digits;    ///< significant digits of numbers
  std::int64_t most_rows = 10;  ///< longer tables are shortened, and say so
};

/// What rows and columns of a dataset are called, so that axes can be labelled.
struct AxisNames {
  std::vector<std::string> features = {};
  std::string target = {};
};

/// A heading across the page: `── Forward ─────`.
[[nodiscard]] std::string show_heading(std::string_view text, const TerminalStyle& style);

/// A tensor as a table, each axis labelled with its role. A single column is laid on its side, and
/// what does not fit is left out with a word about how much.
[[nodiscard]] std::string show_tensor(const Tensor& tensor, const TerminalStyle& style,
                                      const AxisNames& names = {});

/// A worked example from the rows taken to the cost after the update.
[[nodiscard]] std::string show_worked_example(const WorkedExample& example,
                                              const TerminalStyle& style,
                                              const AxisNames& names = {});

/// A gradient check, weight by weight, with the place where engine and difference are farthest
/// apart.
[[nodiscard]] std::string show_check(const GradientCheck& check, const TerminalStyle& style);

}  // namespace lattice
