#pragma once

#include "lattice/worksheet/operations/elementwise.hpp"

namespace lattice {

struct Sigmoid {
  static constexpr std::string_view name = "sigmoid";
  static auto value(const auto& x) { return 1 / (1 + exp(-x)); }
  static auto slope(const auto&, const auto& y) { return y * (1 - y); }
};

struct Tanh {
  static constexpr std::string_view name = "tanh";
  static auto value(const auto& x) { return tanh(x); }
  static auto slope(const auto&, const auto& y) { return 1 - square(y); }
};

/// 1/(1 + e^−x) of every number: from 0 to 1, a half at 0.
template <Operand X>
[[nodiscard]] X sigmoid(const X& x) {
  return apply(Unary<Sigmoid>{}, x);
}

/// The hyperbolic tangent of every number: from −1 to 1, 0 at 0.
template <Operand X>
[[nodiscard]] X tanh(const X& x) {
  return apply(Unary<Tanh>{}, x);
}

}  // namespace lattice
