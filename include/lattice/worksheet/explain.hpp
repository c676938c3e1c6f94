#pragma once

#include <cstdint>
#include <string>
#include <string_view>
#include <vector>

#include "lattice/tensor/axis_names.hpp"
#include "lattice/text/printing.hpp"
#include "lattice/text/wrapping.hpp"
#include "lattice/worksheet/reverse_sweep.hpp"

namespace lattice {

/// How a number is told that was worked in a form that never overflows.
enum class Told : std::uint8_t {
  by_probabilities,  ///< by a softmax or a sigmoid that stands above, where there is one: −log p
  as_worked          ///< in the form in which it was worked
};

/// What stands for a number that is no more than what rounding leaves where terms cancel.
inline constexpr std::string_view residue_in_text = "≈0";

/// How one number was calculated: its formula, and the result.
struct Explanation {
  std::string subject;      ///< what is explained: `z[4,0]`, `∂cost/∂W[1,0]`
  Formula formula;          ///< in terms of named lines; lines without a name are written out
  double value = 0.0;       ///< the number itself, as it is on the line
  std::string note;         ///< for a number that was not calculated: why it is there
  std::string worked = {};  ///< how it was calculated, if not by that formula but by an equal one
  bool is_residue = false;  ///< what rounding leaves where terms cancel (`lattice::is_residue`)

  /// In up to three rows: in names, with the numbers filled in, and the result.
  /// @verbatim
  /// z[4,0] = x[4,0]·W[0,0] + x[4,1]·W[1,0] + b[0]
  ///        = 0.31·1.2 + (−0.77)·0.05 + 0.1
  ///        = 0.4335
  /// @endverbatim
  /// Long rows are wrapped to this many columns.
  [[nodiscard]] std::string text(const Notation& notation = {},
                                 std::size_t width = page_width) const;
};

/// Explains one number on a line.
/// @throws IndexError when the line has no such place.
[[nodiscard]] Explanation explain(const Line& line, const Index& at,
                                  Told told = Told::by_probabilities);

/// Explains the only number of a line. @throws ShapeError when it holds more.
[[nodiscard]] Explanation explain(const Line& line);

/// Explains one number of the gradient of a line: a term for each use of the number in the
/// calculation. The sweep must have passed the line.
/// @throws as `ReverseSweep::gradient` does, IndexError when the line has no such place.
[[nodiscard]] Explanation explain_gradient(const ReverseSweep& sweep, const Line& line,
                                           const Index& at, Told told = Told::by_probabilities);

/// An explanation, and below it those of the numbers in it.
struct Chain {
  Explanation explanation;
  std::vector<Chain> because = {};

  /// All explanations in turn, indented by depth.
  [[nodiscard]] std::string text(const Notation& notation = {},
                                 std::size_t width = page_width) const;
};

/// Explains the calculated numbers in an explanation, then those in their explanations, and so on,
/// `depth` times. Each number is explained once; given numbers are not repeated.
/// @param sweep for explaining gradients; they are left out when it is null
[[nodiscard]] Chain explain_further(Explanation explanation, const Worksheet& sheet,
                                    const ReverseSweep* sweep, int depth,
                                    const Notation& notation = {},
                                    Told told = Told::by_probabilities);

/// One number of a worksheet, as people write it: `W[1,0]`, `cost`, `#5[3,0]`, `shares[Ada,Bo]`. A
/// name that is a number, or has a comma, stands in quotes: `shares["7","Moss, jr."]`.
struct Place {
  std::string line;
  Index at = {};

  /// The positions as written, where not all are numbers; `at` is then empty.
  std::vector<std::string> words = {};
};

/// @throws NameError when the text is not a name with, or without, positions in brackets.
[[nodiscard]] Place parse_place(std::string_view text);

/// The index of an element on a line: `at`, or the only number if no position was given. Numbers of
/// flattened pictures, and weights that multiply them, may be addressed by pixel (`laid_out`).
/// @param names the names of positions, by the roles of the axes
/// @throws NameError for a word that names no position on its axis.
[[nodiscard]] Index index_on(const Line& line, const Place& place, const AxisNames& names = {});

}  // namespace lattice

template <>
struct fmt::formatter<lattice::Explanation> : lattice::detail::Printed<lattice::Explanation> {};
