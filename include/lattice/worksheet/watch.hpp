#pragma once

#include <optional>
#include <string>

#include "lattice/worksheet/explain.hpp"

namespace lattice {

/// The place where a number first became NaN or infinite.
struct Alarm {
  Line line;
  Index at = {};
  double number = 0.0;
  bool in_gradient = false;  ///< the number is of the gradient at the line, not of its value
  std::string part = {};     ///< the innermost part of its formula that is no number, in names
  std::string inputs = {};   ///< the same with the numbers filled in
  std::string cause = {};    ///< what most likely happened

  /// @verbatim
  /// p[0,1] is ∞: the first such number, on line 3, exp
  ///   there:  exp(s[0,1]) = exp(1000)
  ///   cause:  exp overflows above e^709.78 in double precision
  /// @endverbatim
  [[nodiscard]] std::string text() const;

  /// Where it is, in short: `z[3,0] on line 5, dense, became ∞`.
  [[nodiscard]] std::string place() const;
};

/// Looks through a worksheet for the first line with a NaN or an infinity. Nothing when all numbers
/// are finite.
[[nodiscard]] std::optional<Alarm> watch(const Worksheet& sheet);

/// The same for the gradients of a sweep, in the order in which it walked.
[[nodiscard]] std::optional<Alarm> watch(const ReverseSweep& sweep);

}  // namespace lattice

template <>
struct fmt::formatter<lattice::Alarm> : lattice::detail::Printed<lattice::Alarm> {};
