#pragma once

#include <cmath>
#include <type_traits>

#include "lattice/worksheet/formula.hpp"

/// The functions that an element-wise operation is written with. The same text works on numbers
/// (here), on whole tensors (in the kernels) and on formulas (`formula.hpp`).
namespace lattice {

using std::exp;
using std::log;
using std::tanh;

[[nodiscard]] constexpr double square(double x) {
  return x * x;
}
[[nodiscard]] constexpr float square(float x) {
  return x * x;
}

/// A plain number in the number type that `x` is made of, so that a rule with a number in it works
/// on numbers, arrays and formulas alike.
template <class X>
[[nodiscard]] auto number_for(const X&, double number) {
  if constexpr (std::is_same_v<X, Formula>) {
    return Formula(number);
  } else if constexpr (std::is_arithmetic_v<X>) {
    return static_cast<X>(number);
  } else {
    return static_cast<typename X::Scalar>(number);
  }
}

/// A derivative that is 1 or −1 everywhere: what arrives is passed on as it is, or negated, and no
/// kernel multiplies by it.
using One = std::integral_constant<int, 1>;
using MinusOne = std::integral_constant<int, -1>;

}  // namespace lattice
