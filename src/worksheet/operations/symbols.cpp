#include "worksheet/operations/symbols.hpp"

#include <fmt/format.h>

namespace lattice {

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

}  // namespace lattice
