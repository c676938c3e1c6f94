#include "lattice/tensor/arithmetic.hpp"

#include <fmt/format.h>

#include "lattice/text/error.hpp"
#include "tensor/array_kernels.hpp"
#include "tensor/axes.hpp"

namespace lattice {
namespace {

void check_precisions(std::string_view name, const Tensor& a, const Tensor& b) {
  if (a.precision() == b.precision()) return;
  throw NumberError({.what = fmt::format("{}: two precisions in one operation", name),
                     .expected = fmt::format("all in {} precision, like the first {}",
                                             word(a.precision()), to_string(a.shape())),
                     .found = fmt::format("the second {} in {} precision", to_string(b.shape()),
                                          word(b.precision())),
                     .remedy = "bring one to the other's precision with in(…)"});
}

Shape stretched(std::string_view name, const Shape& a, const Shape& b) {
  try {
    return broadcast(a, b);
  } catch (const ShapeError& error) {
    Trouble trouble = error.trouble();
    trouble.what = fmt::format("{}: the first {} and the second {} do not fit number by number",
                               name, to_string(a), to_string(b));
    throw ShapeError(trouble);
  }
}

/// `f` of two terms, number by number.
template <class F>
Tensor number_by_number(std::string_view name, const Term& a, const Term& b, const F& f) {
  const Tensor* const first = a.tensor();
  const Tensor* const second = b.tensor();
  if (first != nullptr && second != nullptr) {
    check_precisions(name, *first, *second);
    return kernels::stretch(stretched(name, first->shape(), second->shape()), *first, *second, f);
  }
  const auto as_one = [](const auto& x, double number) {
    return static_cast<typename std::decay_t<decltype(x)>::Scalar>(number);
  };
  if (first != nullptr)
    return kernels::map(*first, [&](const auto& x) { return f(x, as_one(x, b.number())); });
  return kernels::map(*second, [&](const auto& x) { return f(as_one(x, a.number()), x); });
}

}  // namespace

Tensor operator+(const Term& a, const Term& b) {
  return number_by_number("add", a, b, [](const auto& x, const auto& y) { return x + y; });
}

Tensor operator-(const Term& a, const Term& b) {
  return number_by_number("subtract", a, b, [](const auto& x, const auto& y) { return x - y; });
}

Tensor operator*(const Term& a, const Term& b) {
  return number_by_number("multiply", a, b, [](const auto& x, const auto& y) { return x * y; });
}

Tensor operator/(const Term& a, const Term& b) {
  return number_by_number("divide", a, b, [](const auto& x, const auto& y) { return x / y; });
}

Tensor operator-(const Tensor& x) {
  return kernels::map(x, [](const auto& number) { return -number; });
}

Tensor sum(const Tensor& x, const Along& along) {
  const kernels::AxisSet axes = axes_in("sum", along, x.shape());
  return kernels::sum(x, axes, shape_along(x.shape(), axes, along.keep));
}

}  // namespace lattice
