#pragma once

#include "lattice/worksheet/operations/elementwise.hpp"

namespace lattice {

struct Add {
  static constexpr std::string_view name = "add";
  static auto value(const auto& a, const auto& b) { return a + b; }
  static auto slope_first(const auto&, const auto&, const auto&) { return One{}; }
  static auto slope_second(const auto&, const auto&, const auto&) { return One{}; }
};

struct Subtract {
  static constexpr std::string_view name = "subtract";
  static auto value(const auto& a, const auto& b) { return a - b; }
  static auto slope_first(const auto&, const auto&, const auto&) { return One{}; }
  static auto slope_second(const auto&, const auto&, const auto&) { return MinusOne{}; }
};

struct Multiply {
  static constexpr std::string_view name = "multiply";
  static auto value(const auto& a, const auto& b) { return a * b; }
  static auto slope_first(const auto&, const auto& b, const auto&) { return b; }
  static auto slope_second(const auto& a, const auto&, const auto&) { return a; }
};

struct Divide {
  static constexpr std::string_view name = "divide";
  static auto value(const auto& a, const auto& b) { return a / b; }
  static auto slope_first(const auto&, const auto& b, const auto&) { return 1 / b; }
  static auto slope_second(const auto&, const auto& b, const auto& y) { return -y / b; }
};

struct Negate {
  static constexpr std::string_view name = "negate";
  static auto value(const auto& x) { return -x; }
  static auto slope(const auto&, const auto&) { return MinusOne{}; }
};

struct Square {
  static constexpr std::string_view name = "square";
  static auto value(const auto& x) { return square(x); }
  static auto slope(const auto& x, const auto&) { return 2 * x; }
};

struct Exp {
  static constexpr std::string_view name = "exp";
  static auto value(const auto& x) { return exp(x); }
  static auto slope(const auto&, const auto& y) { return y; }
};

struct Log {
  static constexpr std::string_view name = "log";
  static auto value(const auto& x) { return log(x); }
  static auto slope(const auto& x, const auto&) { return 1 / x; }
};

/// Sum, difference, product and quotient, number by number. Axes are matched from the last one; an
/// extent of 1, a missing axis and a plain number are stretched.
/// @throws ShapeError when two extents differ and neither is 1.
template <Operand X>
[[nodiscard]] X operator+(const X& a, const X& b) {
  return apply(Binary<Add>{}, a, b);
}
template <Operand X>
[[nodiscard]] X operator+(const X& a, double b) {
  return apply(Unary(WithNumber<Add, Side::second>{b}), a);
}
template <Operand X>
[[nodiscard]] X operator+(double a, const X& b) {
  return apply(Unary(WithNumber<Add, Side::first>{a}), b);
}
template <Operand X>
[[nodiscard]] X operator-(const X& a, const X& b) {
  return apply(Binary<Subtract>{}, a, b);
}
template <Operand X>
[[nodiscard]] X operator-(const X& a, double b) {
  return apply(Unary(WithNumber<Subtract, Side::second>{b}), a);
}
template <Operand X>
[[nodiscard]] X operator-(double a, const X& b) {
  return apply(Unary(WithNumber<Subtract, Side::first>{a}), b);
}
template <Operand X>
[[nodiscard]] X operator*(const X& a, const X& b) {
  return apply(Binary<Multiply>{}, a, b);
}
template <Operand X>
[[nodiscard]] X operator*(const X& a, double b) {
  return apply(Unary(WithNumber<Multiply, Side::second>{b}), a);
}
template <Operand X>
[[nodiscard]] X operator*(double a, const X& b) {
  return apply(Unary(WithNumber<Multiply, Side::first>{a}), b);
}
template <Operand X>
[[nodiscard]] X operator/(const X& a, const X& b) {
  return apply(Binary<Divide>{}, a, b);
}
template <Operand X>
[[nodiscard]] X operator/(const X& a, double b) {
  return apply(Unary(WithNumber<Divide, Side::second>{b}), a);
}
template <Operand X>
[[nodiscard]] X operator/(double a, const X& b) {
  return apply(Unary(WithNumber<Divide, Side::first>{a}), b);
}

template <Operand X>
[[nodiscard]] X operator-(const X& x) {
  return apply(Unary<Negate>{}, x);
}

/// x² of every number.
template <Operand X>
[[nodiscard]] X square(const X& x) {
  return apply(Unary<Square>{}, x);
}

/// e to the power of every number.
template <Operand X>
[[nodiscard]] X exp(const X& x) {
  return apply(Unary<Exp>{}, x);
}

/// The natural logarithm of every number.
template <Operand X>
[[nodiscard]] X log(const X& x) {
  return apply(Unary<Log>{}, x);
}

}  // namespace lattice
