#pragma once

#include <fmt/format.h>

#include "lattice/tensor/error.hpp"
#include "lattice/worksheet/operations/elementwise.hpp"
#include "tensor/kernels.hpp"
#include "worksheet/operations/shared.hpp"

/// What `Unary` and `Binary` do with a rule. Included once for each rule, by the file
/// that makes the operation: `template class Unary<Sigmoid>;`
namespace lattice {
namespace detail {

/// What is passed on, in a kernel: what arrived times the slope. Where the slope is 0 for ever,
/// nobody asks.
template <class Slope>
auto pass_on(const auto& arrived, const Slope& slope) {
  if constexpr (std::is_same_v<Slope, One>) {
    return arrived;
  } else if constexpr (std::is_same_v<Slope, MinusOne>) {
    return -arrived;
  } else if constexpr (std::is_same_v<Slope, Zero>) {
    return number_for(arrived, 0.0);
  } else {
    return arrived * slope;
  }
}

/// The numbers of a tensor in symbols: its name, as a formula.
inline Formula symbol(const std::string& name) {
  return Formula(Cell{.name = name});
}

}  // namespace detail

template <class Rule>
Tensor Unary<Rule>::forward(const Inputs& inputs, const Shape&) const {
  return kernels::map(inputs[0], [&](const auto& x) { return rule_.value(x); });
}

template <class Rule>
Tensor Unary<Rule>::reverse(const Arrival& step, std::size_t) const {
  if constexpr (std::is_same_v<decltype(rule_.slope(double{}, double{})), One>) {
    return step.arrived;
  } else if constexpr (std::is_same_v<decltype(rule_.slope(double{}, double{})), Zero>) {
    return {};
  } else {
    return kernels::map(step.inputs[0], step.result, step.arrived,
                        [&](const auto& x, const auto& y, const auto& arrived) {
                          return detail::pass_on(arrived, rule_.slope(x, y));
                        });
  }
}

template <class Rule>
Formula Unary<Rule>::element(const Cells& cells, const Index& at) const {
  return rule_.value(cells.input(0, at));
}

template <class Rule>
Formula Unary<Rule>::reverse_element(const Cells& cells, std::size_t, const Index& at) const {
  return detail::pass_on(cells.arrived(at), rule_.slope(cells.input(0, at), cells.result(at)));
}

template <class Rule>
std::string Unary<Rule>::symbols(const Symbols& symbols) const {
  return rule_.value(detail::symbol(symbols.inputs[0])).text(number_by_number);
}

template <class Rule>
std::string Unary<Rule>::reverse_symbols(const Symbols& symbols, std::size_t) const {
  return detail::pass_on(
             detail::symbol("∂" + symbols.result),
             rule_.slope(detail::symbol(symbols.inputs[0]), detail::symbol(symbols.result)))
      .text(number_by_number);
}

template <class Rule>
Shape Binary<Rule>::shape(const Inputs& inputs) const {
  if (inputs.shape(0) == inputs.shape(1)) {
    Shape shape = inputs.shape(0);
    for (int axis = 0; axis < shape.rank(); ++axis) {
      if (shape.role(axis) == Role::none) shape.set_role(axis, inputs.shape(1).role(axis));
    }
    return shape;
  }
  try {
    return broadcast(inputs.shape(0), inputs.shape(1));
  } catch (const ShapeError& error) {
    Trouble trouble = error.trouble();
    trouble.what = fmt::format("{}: {} and {} do not fit number by number", Rule::name,
                               inputs.describe(0), inputs.describe(1));
    throw ShapeError(trouble);
  }
}

template <class Rule>
Tensor Binary<Rule>::forward(const Inputs& inputs, const Shape& shape) const {
  return kernels::stretch(shape, inputs[0], inputs[1],
                          [](const auto& a, const auto& b) { return Rule::value(a, b); });
}

template <class Rule>
Tensor Binary<Rule>::reverse(const Arrival& step, std::size_t input) const {
  const auto passed_on = [&](auto slope) {
    if constexpr (std::is_same_v<decltype(slope(double{}, double{}, double{})), One>) {
      return step.arrived;
    } else if constexpr (std::is_same_v<decltype(slope(double{}, double{}, double{})), Zero>) {
      return Tensor();
    } else {
      return kernels::stretch(
          step.result.shape(), step.inputs[0], step.inputs[1],
          [&](const auto& a, const auto& b, const auto& y, const auto& arrived) {
            return detail::pass_on(arrived, slope(a, b, y));
          },
          step.result, step.arrived);
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
Formula Binary<Rule>::element(const Cells& cells, const Index& at) const {
  return Rule::value(cells.input(0, before_broadcast(cells.shape(0), at)),
                     cells.input(1, before_broadcast(cells.shape(1), at)));
}

template <class Rule>
Formula Binary<Rule>::reverse_element(const Cells& cells, std::size_t input,
                                      const Index& at) const {
  std::vector<Formula> uses;
  for (const Index& place : places_of_use(cells.shape(input), cells.result_shape(), at)) {
    const Formula a = cells.input(0, before_broadcast(cells.shape(0), place));
    const Formula b = cells.input(1, before_broadcast(cells.shape(1), place));
    const Formula y = cells.result(place);
    const Formula arrived = cells.arrived(place);
    uses.push_back(input == 0 ? detail::pass_on(arrived, Rule::slope_first(a, b, y))
                              : detail::pass_on(arrived, Rule::slope_second(a, b, y)));
  }
  return Formula::sum(std::move(uses));
}

template <class Rule>
std::string Binary<Rule>::symbols(const Symbols& symbols) const {
  return Rule::value(detail::symbol(symbols.inputs[0]), detail::symbol(symbols.inputs[1]))
      .text(number_by_number);
}

template <class Rule>
std::string Binary<Rule>::reverse_symbols(const Symbols& symbols, std::size_t input) const {
  const Formula a = detail::symbol(symbols.inputs[0]);
  const Formula b = detail::symbol(symbols.inputs[1]);
  const Formula y = detail::symbol(symbols.result);
  const Formula arrived = detail::symbol("∂" + symbols.result);
  const Formula one_use = input == 0 ? detail::pass_on(arrived, Rule::slope_first(a, b, y))
                                     : detail::pass_on(arrived, Rule::slope_second(a, b, y));
  return summed_over(symbols, input) + one_use.text(number_by_number);
}

}  // namespace lattice
