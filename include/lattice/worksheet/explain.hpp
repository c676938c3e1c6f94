#pragma once

#include <string>
#include <string_view>
#include <vector>

#include "lattice/tensor/axis_names.hpp"
#include "lattice/text/printing.hpp"
#include "lattice/text/wrapping.hpp"
#include "lattice/worksheet/reverse_sweep.hpp"

namespace lattice {

/// Where one number came from: its formula over the numbers it was made of, and what that gives.
struct Explanation {
  std::string subject;  ///< what is explained: `z[4,0]`, `∂cost/∂W[1,0]`
  Formula formula;      ///< over named lines; lines without a name are written out
  double value = 0.0;   ///< the number itself, as it is on the line
  std::string note;     ///< for a number that was not calculated: why it is there

  /// In up to three rows: in names, with the numbers filled in, and the result.
  /// @verbatim
  /// z[4,0] = x[4,0]·W[0,0] + x[4,1]·W[1,0] + b[0]
  ///        = 0.31·1.2 + (−0.77)·0.05 + 0.1
  ///        = 0.4335
  /// @endverbatim
  /// Long rows are broken to fit into so many columns.
  [[nodiscard]] std::string text(const Notation& notation = {},
                                 std::size_t width = page_width) const;
};

/// Explains one number on a line.
/// @throws IndexError when the line has no such place.
[[nodiscard]] Explanation explain(const Line& line, const Index& at);

/// Explains one number of the gradient at a line: a term for each use of the number in the
/// calculation, and what came back along it. The sweep must have come past the line.
/// @throws as `ReverseSweep::gradient` does, IndexError when the line has no such place.
[[nodiscard]] Explanation explain_gradient(const ReverseSweep& sweep, const Line& line,
                                           const Index& at);

/// An explanation, and below it those of the numbers it is made of.
struct Chain {
  Explanation explanation;
  std::vector<Chain> because = {};

  /// Every explanation in turn, the deeper ones farther to the right.
  [[nodiscard]] std::string text(const Notation& notation = {}) const;
};

/// Explains the calculated numbers that an explanation shows, those that theirs show, and so on,
/// `depth` times. Each number is explained once; numbers that were given are not repeated.
/// @param sweep for gradients among them; those are left out when it is null
[[nodiscard]] Chain explain_further(Explanation explanation, const Worksheet& sheet,
                                    const ReverseSweep* sweep, int depth,
                                    const Notation& notation = {});

/// One number of a worksheet, as people write it: `W[1,0]`, `cost`, `#5[3,0]`, `shares[Ada,Bo]`. A
/// name that is a number, or has a comma, stands in quotes: `shares["7","Moss, jr."]`.
struct Place {
  std::string line;
  Index at = {};

  /// The positions as they are written, where not all are numbers; `at` is empty then.
  std::vector<std::string> words = {};
};

/// @throws NameError when the text is not a name with, or without, positions in brackets.
[[nodiscard]] Place parse_place(std::string_view text);

/// Where on a line a place is: `at`, or the only number there is where no position was told.
/// @param names what positions may be called, by the roles of the axes
/// @throws NameError for a word that names no position on its axis.
[[nodiscard]] Index index_on(const Line& line, const Place& place, const AxisNames& names = {});

}  // namespace lattice

template <>
struct fmt::formatter<lattice::Explanation> : lattice::detail::Printed<lattice::Explanation> {};
