#include "tensor/axes.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <array>

#include "lattice/text/error.hpp"

namespace lattice {

using kernels::AxisSet;
using kernels::contains;

namespace {

AxisSet every_axis(const Shape& shape) {
  return (1U << shape.rank()) - 1U;
}

}  // namespace

int axis_in(std::string_view operation, int axis, const Shape& shape) {
  const int rank = shape.rank();
  if (axis >= -rank && axis < rank) return axis < 0 ? axis + rank : axis;
  throw ShapeError(
      {.what = fmt::format("{}: axis {} of {} is not there", operation, axis, to_string(shape)),
       .expected = rank == 0
                       ? "no axis: it is one number"
                       : fmt::format("0 to {}, or −1 to −{} counted from the last", rank - 1, rank),
       .found = fmt::format("{}", axis)});
}

AxisSet axes_in(std::string_view operation, const Along& along, const Shape& shape) {
  AxisSet axes = 0;
  for (const int each : along.axes) {
    const int axis = axis_in(operation, each, shape);
    if (contains(axes, axis)) {
      throw ShapeError({.what = fmt::format("{}: axis {} of {} is named twice", operation, axis,
                                            to_string(shape)),
                        .expected = "each axis at most once",
                        .found = fmt::format("{}", fmt::join(along.axes, ", "))});
    }
    axes |= 1U << axis;
  }
  return along.axes.empty() ? every_axis(shape) : axes;
}

Shape shape_along(const Shape& x, AxisSet axes, bool keep) {
  if (!keep && axes == every_axis(x)) return {};
  std::array<std::int64_t, max_rank> extents{};
  std::array<Role, max_rank> roles{};
  std::size_t rank = 0;
  for (int axis = 0; axis < x.rank(); ++axis) {
    const bool gone = contains(axes, axis);
    if (gone && !keep) continue;
    extents.at(rank) = gone ? 1 : x[axis];
    roles.at(rank++) = gone ? Role::none : x.role(axis);
  }
  Shape shape(std::span<const std::int64_t>(extents.data(), rank));
  for (int axis = 0; axis < shape.rank(); ++axis)
    shape.set_role(axis, roles.at(static_cast<std::size_t>(axis)));
  return shape;
}

}  // namespace lattice
