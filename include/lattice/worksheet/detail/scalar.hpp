#pragma once

#include <cmath>
#include <type_traits>

#include "lattice/worksheet/formula.hpp"

/// What the functions below do with whole arrays; known to the kernels alone.
namespace lattice::kernels {
template <class T>
struct ExpOf;
template <class T>
struct LogOf;
template <class T>
struct TanhOf;
template <class T>
struct Log1pOf;
template <class T>
struct Expm1Of;
}  // namespace lattice::kernels

/// The functions that an element-wise operation is written with. The same text works on numbers
/// (here), on whole tensors (in the kernels) and on formulas (`formula.hpp`).
namespace lattice {

using std::abs;
using std::atan;
using std::cos;
using std::exp;
using std::expm1;
using std::log;
using std::log1p;
using std::pow;
using std::sin;
using std::sqrt;
using std::tanh;

[[nodiscard]] constexpr double square(double x) {
  return x * x;
}
[[nodiscard]] constexpr float square(float x) {
  return x * x;
}

/// A whole tensor, as the kernels see it.
template <class X>
concept Array = requires {
  typename X::Scalar;
};

/// What rules are written with beside the functions above. `Exp` and its like on whole arrays are
/// ours, and not seen by who uses the library: arrays that come from elsewhere have their own.
namespace elementwise {

using std::exp;
using std::expm1;
using std::log;
using std::log1p;
using std::tanh;

template <Array X>
[[nodiscard]] auto exp(const X& x) {
  return x.unaryExpr(kernels::ExpOf<typename X::Scalar>());
}
template <Array X>
[[nodiscard]] auto log(const X& x) {
  return x.unaryExpr(kernels::LogOf<typename X::Scalar>());
}
template <Array X>
[[nodiscard]] auto tanh(const X& x) {
  return x.unaryExpr(kernels::TanhOf<typename X::Scalar>());
}
template <Array X>
[[nodiscard]] auto log1p(const X& x) {
  return x.unaryExpr(kernels::Log1pOf<typename X::Scalar>());
}
template <Array X>
[[nodiscard]] auto expm1(const X& x) {
  return x.unaryExpr(kernels::Expm1Of<typename X::Scalar>());
}

}  // namespace elementwise

namespace detail {

/// The number type that `X` is made of: itself, or what an array of them holds.
template <class X>
struct NumberOf {
  using type = typename X::Scalar;
};
template <class X>
requires std::is_arithmetic_v<X> || std::is_same_v<X, Formula>
struct NumberOf<X> {
  using type = X;
};

}  // namespace detail

/// A plain number in the number type that `x` is made of, so that a rule with a number in it works
/// on numbers, arrays and formulas alike.
template <class X>
[[nodiscard]] auto number_for(const X&, double number) {
  if constexpr (std::is_same_v<X, Formula>) {
    return Formula(number);
  } else {
    return static_cast<typename detail::NumberOf<X>::type>(number);
  }
}

/// `a` where a condition holds, `b` elsewhere: a branch that works on whole tensors too.
template <class Answer, class A, class B>
[[nodiscard]] auto where(const Answer& condition, const A& a, const B& b) {
  if constexpr (std::is_same_v<Answer, bool>) {
    return condition ? a : b;
  } else if constexpr (std::is_same_v<Answer, Condition>) {
    return Formula::choice(condition, a, b);
  } else if constexpr (std::is_arithmetic_v<A> && std::is_arithmetic_v<B>) {
    return condition.select(condition.template cast<A>() * A{0} + a, b);
  } else {
    return condition.select(a, b);
  }
}

/// 1 where a condition about numbers like `x` holds, 0 elsewhere.
template <class X, class Answer>
[[nodiscard]] auto one_where(const X& x, const Answer& condition) {
  if constexpr (std::is_same_v<Answer, bool>) {
    return condition ? number_for(x, 1.0) : number_for(x, 0.0);
  } else if constexpr (std::is_same_v<Answer, Condition>) {
    return Formula::choice(condition, 1.0, 0.0);
  } else {
    return condition.template cast<typename detail::NumberOf<X>::type>();
  }
}

/// The larger and the smaller of two. NaN beside a number gives NaN when it comes first.
template <class A, class B>
[[nodiscard]] auto larger(const A& a, const B& b) {
  if constexpr (std::is_same_v<A, Formula>) {
    return Formula::largest({a, b});
  } else if constexpr (!std::is_arithmetic_v<A>) {
    return a.max(b);
  } else if constexpr (!std::is_arithmetic_v<B>) {
    return b.max(a);
  } else {
    return a < b ? b : a;
  }
}
template <class A, class B>
[[nodiscard]] auto smaller(const A& a, const B& b) {
  if constexpr (std::is_same_v<A, Formula>) {
    return Formula::smallest({a, b});
  } else if constexpr (!std::is_arithmetic_v<A>) {
    return a.min(b);
  } else if constexpr (!std::is_arithmetic_v<B>) {
    return b.min(a);
  } else {
    return b < a ? b : a;
  }
}

/// A derivative that is 1, −1 or 0 everywhere: what arrives is passed on as it is, negated, or not
/// at all, and no kernel multiplies by it. An operation whose derivative is 0 ends the sweep.
using One = std::integral_constant<int, 1>;
using MinusOne = std::integral_constant<int, -1>;
using Zero = std::integral_constant<int, 0>;

}  // namespace lattice
