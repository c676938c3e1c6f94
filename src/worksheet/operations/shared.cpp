#include "worksheet/operations/shared.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "lattice/text/error.hpp"
#include "tensor/visit.hpp"

namespace lattice {
namespace {

/// The largest of several numbers, by the name `m`.
Formula largest_of(const std::vector<Formula>& numbers) {
  return numbers.size() == 1 ? numbers.front() : Formula::shorthand("m", Formula::largest(numbers));
}

Formula sum_of_powers(const std::vector<Formula>& numbers, const Formula& largest) {
  std::vector<Formula> powers;
  powers.reserve(numbers.size());
  for (const Formula& number : numbers)
    powers.push_back(exp(number - largest));
  return Formula::sum(std::move(powers));
}

}  // namespace

Formula symbol(const std::string& name) {
  return Formula(Cell{.name = name});
}

std::string describe_axes(kernels::AxisSet axes, const Shape& shape) {
  std::string text;
  for (int axis = 0; axis < shape.rank(); ++axis) {
    if (!kernels::contains(axes, axis)) continue;
    const std::string_view role = word(shape.role(axis));
    text += text.empty() ? "" : ", ";
    text += role.empty() ? fmt::format("axis {}", axis) : std::string(role);
  }
  return text;
}

std::string describe_axes(kernels::AxisSet axes, const Symbols& symbols) {
  Shape shape = symbols.shapes[0];
  const Shape& shown = symbols.shapes[0];
  for (int axis = 0; symbols.are_typed && axis < shape.rank(); ++axis) {
    for (int other = 0; other < shape.rank(); ++other) {
      if (other != axis && shown.role(other) == shown.role(axis)) shape.set_role(axis, Role::none);
    }
  }
  return describe_axes(axes, shape);
}

std::string function_called(std::string_view name) {
  std::string function(name);
  std::ranges::replace_if(
      function, [](char letter) { return letter == ' ' || letter == '-'; }, '_');
  return function;
}

std::string summed_over(const Symbols& symbols, std::size_t input) {
  const kernels::AxisSet axes =
      kernels::stretched_axes(symbols.shapes[input], symbols.result_shape);
  return axes == 0 ? "" : fmt::format("Σ({}) ", describe_axes(axes, symbols.result_shape));
}

std::vector<Index> places_along(kernels::AxisSet axes, const Shape& shape, const Index& at) {
  Index place = at;
  for (int axis = 0; axis < shape.rank(); ++axis) {
    if (kernels::contains(axes, axis)) place[axis] = 0;
  }
  std::vector<Index> places;
  for (;;) {
    places.push_back(place);
    int axis = shape.rank() - 1;
    for (; axis >= 0; --axis) {
      if (!kernels::contains(axes, axis)) continue;
      if (++place[axis] < shape[axis]) break;
      place[axis] = 0;
    }
    if (axis < 0) return places;
  }
}

std::vector<Index> places_of_use(const Shape& shape, const Shape& stretched, const Index& at) {
  Index place = Index::zeros(stretched.rank());
  for (int axis = 0; axis < shape.rank(); ++axis) {
    place[axis + stretched.rank() - shape.rank()] = at[axis];
  }
  return places_along(kernels::stretched_axes(shape, stretched), stretched, place);
}

void check_whole(const Inputs& inputs, std::size_t input, std::int64_t end, std::string_view what,
                 std::int64_t first, std::int64_t step) {
  const Tensor& tensor = inputs[input];
  visit(tensor.precision(), [&]<class T>(T) {
    const T* const numbers = tensor.data<T>();
    for (std::int64_t offset = first; offset < tensor.count(); offset += step) {
      const T number = numbers[offset];
      if (number >= T{0} && number < static_cast<T>(end) && number == std::floor(number)) continue;
      throw IndexError({.what = fmt::format("{} is out of range", what),
                        .where = inputs.place(input, tensor.shape().index(offset)),
                        .expected = fmt::format("a whole number from 0 to {}", end - 1),
                        .found = format_number(static_cast<double>(number))});
    }
  });
}

Powers powers_of(const Cells& cells, const Index& at,
                 const std::function<std::vector<Formula>()>& gather) {
  const Formula largest = cells.in_common(0, at, [&] { return largest_of(gather()); });
  return {largest, cells.in_common(1, at, [&] { return sum_of_powers(gather(), largest); })};
}

Formula log_sum_exp_of(const Powers& powers) {
  return powers.largest + log(powers.sum);
}

Formula surprise_at(const Formula& number, const Powers& powers) {
  return (powers.largest - number) + log(powers.sum);
}

Formula softmax_of(const Formula& number, const Powers& powers) {
  return exp(number - powers.largest) / powers.sum;
}

}  // namespace lattice
