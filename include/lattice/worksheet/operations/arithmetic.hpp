#pragma once

#include <array>
#include <concepts>

#include "lattice/tensor/arithmetic.hpp"
#include "lattice/worksheet/operations/elementwise.hpp"

namespace lattice {
namespace elementwise {

struct Add {
  static constexpr std::string_view name = "add";
  static constexpr std::string_view gives = "sum";
  static constexpr std::string_view typed = "{} + {}";
  static auto value(const auto& a, const auto& b) { return a + b; }
  static auto slope_first(const auto&, const auto&, const auto&) { return One{}; }
  static auto slope_second(const auto&, const auto&, const auto&) { return One{}; }
};

struct Subtract {
  static constexpr std::string_view name = "subtract";
  static constexpr std::string_view gives = "difference";
  static constexpr std::string_view typed = "{} − {}";
  static auto value(const auto& a, const auto& b) { return a - b; }
  static auto slope_first(const auto&, const auto&, const auto&) { return One{}; }
  static auto slope_second(const auto&, const auto&, const auto&) { return MinusOne{}; }
};

struct Multiply {
  static constexpr std::string_view name = "multiply";
  static constexpr std::string_view gives = "product";
  static constexpr std::string_view typed = "{} × {}";
  static constexpr bool multiplies_numbers = true;
  static auto value(const auto& a, const auto& b) { return a * b; }
  static auto slope_first(const auto&, const auto& b, const auto&) { return b; }
  static auto slope_second(const auto& a, const auto&, const auto&) { return a; }
};

struct Divide {
  static constexpr std::string_view name = "divide";
  static constexpr std::string_view gives = "quotient";
  static constexpr std::string_view typed = "{}/{}";
  static auto value(const auto& a, const auto& b) { return a / b; }
  static auto slope_first(const auto&, const auto& b, const auto&) { return 1 / b; }
  static auto slope_second(const auto&, const auto& b, const auto& y) { return -y / b; }
};

/// The larger of two; where they are equal, the first gets the whole gradient.
struct Maximum {
  static constexpr std::string_view name = "maximum";
  static constexpr std::string_view typed = "max({}, {})";
  static auto value(const auto& a, const auto& b) { return larger(a, b); }
  static auto slope_first(const auto& a, const auto& b, const auto&) {
    return one_where(a, a >= b);
  }
  static auto slope_second(const auto& a, const auto& b, const auto&) {
    return one_where(a, b > a);
  }
};

/// The smaller of two; where they are equal, the first gets the whole gradient.
struct Minimum {
  static constexpr std::string_view name = "minimum";
  static constexpr std::string_view typed = "min({}, {})";
  static auto value(const auto& a, const auto& b) { return smaller(a, b); }
  static auto slope_first(const auto& a, const auto& b, const auto&) {
    return one_where(a, b >= a);
  }
  static auto slope_second(const auto& a, const auto& b, const auto&) {
    return one_where(a, a > b);
  }
};

struct Above {
  static constexpr std::string_view name = "above";
  static constexpr std::string_view typed = "above({}, {})";
  static auto value(const auto& a, const auto& b) { return one_where(a, a > b); }
  static auto slope_first(const auto&, const auto&, const auto&) { return Zero{}; }
  static auto slope_second(const auto&, const auto&, const auto&) { return Zero{}; }
};

struct AtLeast {
  static constexpr std::string_view name = "at least";
  static constexpr std::string_view typed = "at_least({}, {})";
  static auto value(const auto& a, const auto& b) { return one_where(a, a >= b); }
  static auto slope_first(const auto&, const auto&, const auto&) { return Zero{}; }
  static auto slope_second(const auto&, const auto&, const auto&) { return Zero{}; }
};

struct Equal {
  static constexpr std::string_view name = "equal";
  static constexpr std::string_view typed = "equal({}, {})";
  static auto value(const auto& a, const auto& b) { return one_where(a, a == b); }
  static auto slope_first(const auto&, const auto&, const auto&) { return Zero{}; }
  static auto slope_second(const auto&, const auto&, const auto&) { return Zero{}; }
};

struct Negate {
  static constexpr std::string_view name = "negate";
  static constexpr std::string_view gives = "negative";
  static constexpr std::string_view typed = "−{}";
  static auto value(const auto& x) { return -x; }
  static auto slope(const auto&, const auto&) { return MinusOne{}; }
};

struct Square {
  static constexpr std::string_view name = "square";
  static constexpr std::string_view typed = "{}²";
  static auto value(const auto& x) { return square(x); }
  static auto slope(const auto& x, const auto&) { return 2 * x; }
};

struct Power {
  static constexpr std::string_view name = "power";
  static constexpr std::string_view typed = "{}^{}";
  double exponent = 1.0;

  [[nodiscard]] auto numbers() const { return std::array{exponent}; }
  auto value(const auto& x) const { return pow(x, number_for(x, exponent)); }
  auto slope(const auto& x, const auto&) const {
    return number_for(x, exponent) * pow(x, number_for(x, exponent - 1.0));
  }
};

/// Of two tensors. What 0 is raised to gets no gradient, since 0 to any power above 0 is 0.
struct RaisedTo {
  static constexpr std::string_view name = "power";
  static constexpr std::string_view typed = "power({}, {})";
  static auto value(const auto& a, const auto& b) { return pow(a, b); }
  static auto slope_first(const auto& a, const auto& b, const auto&) { return b * pow(a, b - 1); }
  static auto slope_second(const auto& a, const auto&, const auto& y) {
    const auto one = number_for(a, 1.0);
    return y * log(where(a == number_for(a, 0.0), one, a));
  }
};

struct SquareRoot {
  static constexpr std::string_view name = "square root";
  static constexpr std::string_view gives = "root";
  static constexpr std::string_view typed = "√({})";
  static auto value(const auto& x) { return sqrt(x); }
  static auto slope(const auto&, const auto& y) { return 1 / (2 * y); }
};

struct InverseRoot {
  static constexpr std::string_view name = "inverse root";
  static constexpr std::string_view typed = "inverse_root({})";
  static auto value(const auto& x) { return 1 / sqrt(x); }
  static auto slope(const auto& x, const auto& y) { return -y / (2 * x); }
};

struct Exp {
  static constexpr std::string_view name = "exp";
  static constexpr std::string_view typed = "exp({})";
  static auto value(const auto& x) { return exp(x); }
  static auto slope(const auto&, const auto& y) { return y; }
};

struct Log {
  static constexpr std::string_view name = "log";
  static constexpr std::string_view typed = "log({})";
  static constexpr bool has_no_value_at_zero = true;
  static auto value(const auto& x) { return log(x); }
  static auto slope(const auto& x, const auto&) { return 1 / x; }
};

struct AbsoluteValue {
  static constexpr std::string_view name = "absolute value";
  static constexpr std::string_view gives = "size";
  static constexpr std::string_view typed = "abs({})";
  static auto value(const auto& x) { return abs(x); }
  static auto slope(const auto& x, const auto&) {
    const auto zero = number_for(x, 0.0);
    return one_where(x, x > zero) - one_where(x, x < zero);
  }
};

struct Clip {
  static constexpr std::string_view name = "clip";
  static constexpr std::string_view typed = "clip({}; {}, {})";
  double low = 0.0;
  double high = 1.0;

  [[nodiscard]] auto numbers() const { return std::array{low, high}; }
  auto value(const auto& x) const {
    return smaller(larger(x, number_for(x, low)), number_for(x, high));
  }
  auto slope(const auto& x, const auto&) const {
    return one_where(x, x > number_for(x, low)) * one_where(x, x < number_for(x, high));
  }
};

}  // namespace elementwise

namespace detail {

/// @throws SettingError unless `low` is below `high`.
void check_limits(double low, double high);

/// A binary operation between lines or tensors, or with a plain number on either side.
template <class Rule, class A, class B>
[[nodiscard]] OperandOf<A, B> binary(const A& a, const B& b) {
  if constexpr (std::same_as<A, B>) {
    return apply(elementwise::Binary<Rule>{}, a, b);
  } else if constexpr (LineAndTensor<A, B>) {
    const auto [first, second] = as_lines(a, b);
    return apply(elementwise::Binary<Rule>{}, first, second);
  } else if constexpr (Operand<A>) {
    return apply(elementwise::Unary(elementwise::WithNumber<Rule, elementwise::Side::second>{
                     static_cast<double>(b)}),
                 a);
  } else {
    return apply(elementwise::Unary(elementwise::WithNumber<Rule, elementwise::Side::first>{
                     static_cast<double>(a)}),
                 b);
  }
}

}  // namespace detail

/// Sum, difference, product and quotient, number by number, written down. Axes are matched from the
/// last one; an extent of 1, a missing axis and a plain number are stretched. Of tensors they are
/// plain arithmetic; a tensor beside a line is written down as data without a name.
/// @throws ShapeError when two extents differ and neither is 1.
template <class A, class B>
requires Lines<A, B>
[[nodiscard]] Line operator+(const A& a, const B& b) {
  return detail::binary<elementwise::Add>(a, b);
}
template <class A, class B>
requires Lines<A, B>
[[nodiscard]] Line operator-(const A& a, const B& b) {
  return detail::binary<elementwise::Subtract>(a, b);
}
template <class A, class B>
requires Lines<A, B>
[[nodiscard]] Line operator*(const A& a, const B& b) {
  return detail::binary<elementwise::Multiply>(a, b);
}
template <class A, class B>
requires Lines<A, B>
[[nodiscard]] Line operator/(const A& a, const B& b) {
  return detail::binary<elementwise::Divide>(a, b);
}

[[nodiscard]] inline Line operator-(const Line& x) {
  return apply(elementwise::Unary<elementwise::Negate>{}, x);
}

/// The larger, and the smaller, of two, number by number; stretched like a sum. Where they are
/// equal, the first gets the gradient.
template <class A, class B>
requires Operands<A, B>
[[nodiscard]] OperandOf<A, B> maximum(const A& a, const B& b) {
  return detail::binary<elementwise::Maximum>(a, b);
}
template <class A, class B>
requires Operands<A, B>
[[nodiscard]] OperandOf<A, B> minimum(const A& a, const B& b) {
  return detail::binary<elementwise::Minimum>(a, b);
}

/// Comparisons, number by number, stretched like a sum: 1 where the answer is yes, 0 elsewhere.
/// They pass no gradient on.
/// @code
/// above(tensor({1, 2, 3}), 2)   // 0 0 1
/// @endcode
template <class A, class B>
requires Operands<A, B>
[[nodiscard]] OperandOf<A, B> above(const A& a, const B& b) {
  return detail::binary<elementwise::Above>(a, b);
}
template <class A, class B>
requires Operands<A, B>
[[nodiscard]] OperandOf<A, B> below(const A& a, const B& b) {
  return detail::binary<elementwise::Above>(b, a);
}
template <class A, class B>
requires Operands<A, B>
[[nodiscard]] OperandOf<A, B> at_least(const A& a, const B& b) {
  return detail::binary<elementwise::AtLeast>(a, b);
}
template <class A, class B>
requires Operands<A, B>
[[nodiscard]] OperandOf<A, B> at_most(const A& a, const B& b) {
  return detail::binary<elementwise::AtLeast>(b, a);
}
template <class A, class B>
requires Operands<A, B>
[[nodiscard]] OperandOf<A, B> equal(const A& a, const B& b) {
  return detail::binary<elementwise::Equal>(a, b);
}

/// x² of every number.
template <Operand X>
[[nodiscard]] X square(const X& x) {
  return apply(elementwise::Unary<elementwise::Square>{}, x);
}

/// Every number to the power of `exponent`. NaN for a negative number and a broken exponent.
template <Operand X>
[[nodiscard]] X power(const X& x, double exponent) {
  return apply(elementwise::Unary(elementwise::Power{exponent}), x);
}

/// Numbers, or one number, to powers that are numbers of a tensor; stretched like a sum.
///
/// @code
/// power(2, tensor({0, 1, 2, 3}))   // 1 2 4 8
/// @endcode
template <Operand X>
[[nodiscard]] X power(const X& base, const X& exponent) {
  return detail::binary<elementwise::RaisedTo>(base, exponent);
}
template <Operand X>
[[nodiscard]] X power(double base, const X& exponent) {
  return detail::binary<elementwise::RaisedTo>(base, exponent);
}

/// The square root of every number. NaN below 0.
template <Operand X>
[[nodiscard]] X sqrt(const X& x) {
  return apply(elementwise::Unary<elementwise::SquareRoot>{}, x);
}

/// 1/√x, in one line.
template <Operand X>
[[nodiscard]] X inverse_root(const X& x) {
  return apply(elementwise::Unary<elementwise::InverseRoot>{}, x);
}

/// e to the power of every number.
template <Operand X>
[[nodiscard]] X exp(const X& x) {
  return apply(elementwise::Unary<elementwise::Exp>{}, x);
}

/// The natural logarithm of every number. −∞ at 0, NaN below.
template <Operand X>
[[nodiscard]] X log(const X& x) {
  return apply(elementwise::Unary<elementwise::Log>{}, x);
}

/// The absolute value of every number. At 0 it passes no gradient on.
template <Operand X>
[[nodiscard]] X abs(const X& x) {
  return apply(elementwise::Unary<elementwise::AbsoluteValue>{}, x);
}

/// Every number, brought to `low` where it is below and to `high` where it is above. Numbers
/// outside, or at a limit, pass no gradient on.
/// @throws SettingError unless `low` is below `high`.
template <Operand X>
[[nodiscard]] X clip(const X& x, double low, double high) {
  detail::check_limits(low, high);
  return apply(elementwise::Unary(elementwise::Clip{low, high}), x);
}

}  // namespace lattice
