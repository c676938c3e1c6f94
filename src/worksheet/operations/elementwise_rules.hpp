#pragma once

#include "lattice/worksheet/operations/elementwise.hpp"
#include "tensor/array_kernels.hpp"
#include "tensor/kernels.hpp"

/// What `Unary` and `Binary` do with a rule: its loops, and its formulas. Included by the file that
/// makes the operation: `template class Unary<Sigmoid>;`
namespace lattice::elementwise {
namespace detail {

/// What is passed on, in a kernel: the gradient times the slope. Where the slope is 0 for ever,
/// nobody asks.
template <class Slope>
auto pass_on(const auto& gradient, const Slope& slope) {
  if constexpr (std::is_same_v<Slope, One>) {
    return gradient;
  } else if constexpr (std::is_same_v<Slope, MinusOne>) {
    return -gradient;
  } else if constexpr (std::is_same_v<Slope, Zero>) {
    return number_for(gradient, 0.0);
  } else {
    return gradient * slope;
  }
}

}  // namespace detail

template <class Rule>
Tensor Unary<Rule>::forward(const Inputs& inputs, const Shape&) const {
  return kernels::map(inputs[0], [&](const auto& x) { return rule_.value(x); });
}

template <class Rule>
Tensor Unary<Rule>::reverse(const BackwardStep& step, std::size_t) const {
  if constexpr (std::is_same_v<decltype(rule_.slope(double{}, double{})), One>) {
    return step.gradient;
  } else if constexpr (std::is_same_v<decltype(rule_.slope(double{}, double{})), Zero>) {
    return {};
  } else {
    return kernels::map(
        step.inputs[0],
        [&](const auto& x, const auto& y, const auto& gradient) {
          return detail::pass_on(gradient, rule_.slope(x, y));
        },
        step.result, step.gradient);
  }
}

template <class Rule>
Formula Unary<Rule>::value(const Formula& x) const {
  return rule_.value(x);
}

template <class Rule>
Formula Unary<Rule>::passed_on(const Formula& gradient, const Formula& x, const Formula& y) const {
  return detail::pass_on(gradient, rule_.slope(x, y));
}

template <class Rule>
Tensor Binary<Rule>::forward(const Inputs& inputs, const Shape& shape) const {
  return kernels::stretch(shape, inputs[0], inputs[1],
                          [](const auto& a, const auto& b) { return Rule::value(a, b); });
}

template <class Rule>
Tensor Binary<Rule>::reverse(const BackwardStep& step, std::size_t input) const {
  const auto passed_on = [&](auto slope) {
    if constexpr (std::is_same_v<decltype(slope(double{}, double{}, double{})), One>) {
      return step.gradient;
    } else if constexpr (std::is_same_v<decltype(slope(double{}, double{}, double{})), Zero>) {
      return Tensor();
    } else {
      return kernels::stretch(
          step.result.shape(), step.inputs[0], step.inputs[1],
          [&](const auto& a, const auto& b, const auto& y, const auto& gradient) {
            return detail::pass_on(gradient, slope(a, b, y));
          },
          step.result, step.gradient);
    }
  };
  const Tensor of_every_use = input == 0
                                  ? passed_on([](const auto& a, const auto& b, const auto& y) {
                                      return Rule::slope_first(a, b, y);
                                    })
                                  : passed_on([](const auto& a, const auto& b, const auto& y) {
                                      return Rule::slope_second(a, b, y);
                                    });
  return kernels::sum_stretched(of_every_use, step.inputs.shape(input));
}

template <class Rule>
Formula Binary<Rule>::value(const Formula& a, const Formula& b) const {
  return Rule::value(a, b);
}

template <class Rule>
Formula Binary<Rule>::passed_on(std::size_t input, const Formula& gradient, const Formula& a,
                                const Formula& b, const Formula& y) const {
  return input == 0 ? detail::pass_on(gradient, Rule::slope_first(a, b, y))
                    : detail::pass_on(gradient, Rule::slope_second(a, b, y));
}

}  // namespace lattice::elementwise
