#pragma once

#include <string_view>

#include "lattice/tensor/arithmetic.hpp"
#include "tensor/kernels.hpp"

namespace lattice {

/// The axis of a shape, counted from 0, that a user means; −1 is the last, −2 the one before it.
/// @throws ShapeError when the shape has no such axis.
[[nodiscard]] int axis_in(std::string_view operation, int axis, const Shape& shape);

/// The axes that a user means; all where none is named.
/// @throws ShapeError when the shape has no such axis, or one is named twice.
[[nodiscard]] kernels::AxisSet axes_in(std::string_view operation, const Along& along,
                                       const Shape& shape);

/// The shape of what is left when the numbers along some axes are brought together. A total over
/// classes is of no class: an axis that is kept has no role.
[[nodiscard]] Shape shape_along(const Shape& shape, kernels::AxisSet axes, bool keep);

}  // namespace lattice
