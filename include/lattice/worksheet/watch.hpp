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
  bool in_gradient = false;  ///< in the gradient of the line, not in its value
  std::string part = {};     ///< the innermost part of its formula that is not finite, in names
  std::string inputs = {};   ///< the same with numbers
  std::string cause = {};    ///< the most likely cause

  /// @verbatim
  /// p[0,1] is ∞: the first such number, on line 3, exp
  ///   there:  exp(s[0,1]) = exp(1000)
  ///   cause:  exp overflows above e^709.78 in double precision
  /// @endverbatim
  [[nodiscard]] std::string text() const;

  /// A short description: `z[3,0] on line 5, dense, became ∞`.
  [[nodiscard]] std::string place() const;
};

/// Finds the first line of a worksheet with a NaN or an infinity. Nothing when all numbers are
/// finite.
[[nodiscard]] std::optional<Alarm> watch(const Worksheet& sheet);

/// The same for the gradients of a sweep, in its order.
[[nodiscard]] std::optional<Alarm> watch(const ReverseSweep& sweep);

}  // namespace lattice

template <>
struct fmt::formatter<lattice::Alarm> : lattice::detail::Printed<lattice::Alarm> {};
