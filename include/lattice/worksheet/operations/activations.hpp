#pragma once

#include <array>

#include "lattice/worksheet/operations/arithmetic.hpp"
#include "lattice/worksheet/operations/form.hpp"

namespace lattice {
namespace elementwise {

struct Sigmoid {
  static constexpr std::string_view name = "sigmoid";
  static constexpr std::string_view typed = "sigmoid({})";
  static constexpr bool makes_probabilities = true;
  static constexpr bool is_sigmoid = true;
  static auto value(const auto& x) { return 1 / (1 + exp(-x)); }
  static auto slope(const auto&, const auto& y) { return y * (1 - y); }
};

struct Tanh {
  static constexpr std::string_view name = "tanh";
  static constexpr std::string_view typed = "tanh({})";
  static auto value(const auto& x) { return tanh(x); }
  static auto slope(const auto&, const auto& y) { return 1 - square(y); }
};

struct Relu {
  static constexpr std::string_view name = "ReLU";
  static constexpr std::string_view typed = "relu({})";
  static auto value(const auto& x) { return larger(x, number_for(x, 0.0)); }
  static auto slope(const auto& x, const auto&) { return one_where(x, x > number_for(x, 0.0)); }
};

struct LeakyRelu {
  static constexpr std::string_view name = "leaky ReLU";
  static constexpr std::string_view typed = "leaky_relu({}; {})";
  double leak = 0.01;

  [[nodiscard]] auto numbers() const { return std::array{leak}; }
  auto value(const auto& x) const {
    return where(x > number_for(x, 0.0), x, number_for(x, leak) * x);
  }
  auto slope(const auto& x, const auto&) const {
    return where(x > number_for(x, 0.0), number_for(x, 1.0), number_for(x, leak));
  }
};

struct Softplus {
  static constexpr std::string_view name = "softplus";
  static constexpr std::string_view typed = "softplus({})";
  static auto value(const auto& x) { return larger(x, number_for(x, 0.0)) + log1p(exp(-abs(x))); }
  static auto slope(const auto& x, const auto&) { return 1 / (1 + exp(-x)); }
};

struct Elu {
  static constexpr std::string_view name = "ELU";
  static constexpr std::string_view typed = "elu({}; {})";
  double alpha = 1.0;

  [[nodiscard]] auto numbers() const { return std::array{alpha}; }
  auto value(const auto& x) const {
    const auto zero = number_for(x, 0.0);
    return where(x > zero, x, number_for(x, alpha) * expm1(smaller(x, zero)));
  }
  auto slope(const auto& x, const auto& y) const {
    return where(x > number_for(x, 0.0), number_for(x, 1.0), y + number_for(x, alpha));
  }
};

}  // namespace elementwise

// Activations are layers of a network, too.
using elementwise::Elu;
using elementwise::LeakyRelu;
using elementwise::Relu;
using elementwise::Sigmoid;
using elementwise::Softplus;
using elementwise::Tanh;

/// The hyperbolic tangent of every number: from −1 to 1, 0 at 0.
template <Operand X>
[[nodiscard]] X tanh(const X& x) {
  return apply(elementwise::Unary<Tanh>{}, x);
}

/// 1/(1 + e^−x) of every number: from 0 to 1, a half at 0. Its gradient needs the result alone;
/// written out it is ½·(1 + tanh(x/2)). `Form::naive` is the formula in primitive lines, whose
/// gradient is 0·∞ where e^−x overflows.
template <Operand X>
[[nodiscard]] X sigmoid(const X& x, Form form = Form::one_line) {
  if (form == Form::one_line) return apply(elementwise::Unary<Sigmoid>{}, x);
  if (is_naive(form)) {
    const X power = described("power", exp(described("negative", -x)));
    return 1 / described("total", 1 + power);
  }
  const X half_tanh = described("half_tanh", tanh(described("half", 0.5 * x)));
  return 0.5 * described("total", 1 + half_tanh);
}

/// The larger of x and 0, for every number. At 0 it passes no gradient on.
template <Operand X>
[[nodiscard]] X relu(const X& x) {
  return apply(elementwise::Unary<Relu>{}, x);
}

/// x above 0, and `leak`·x elsewhere, for every number.
template <Operand X>
[[nodiscard]] X leaky_relu(const X& x, double leak = 0.01) {
  return apply(elementwise::Unary(LeakyRelu{leak}), x);
}

/// log(1 + e^x) of every number, a ReLU with a round corner. Worked as max(x, 0) + log(1 + e^−|x|),
/// in which nothing overflows.
template <Operand X>
[[nodiscard]] X softplus(const X& x) {
  return apply(elementwise::Unary<Softplus>{}, x);
}

/// x above 0, and `alpha`·(e^x − 1) elsewhere, for every number: it levels out at −`alpha`.
/// Source: Clevert, Unterthiner and Hochreiter, 2015.
template <Operand X>
[[nodiscard]] X elu(const X& x, double alpha = 1.0) {
  return apply(elementwise::Unary(Elu{alpha}), x);
}

}  // namespace lattice
