#pragma once

#include "lattice/tensor/axis_names.hpp"
#include "lattice/tensor/tensor.hpp"
#include "text/grid.hpp"

namespace lattice {

/// A tensor of one axis or more as a grid, each axis labelled with its role, and its places with
/// their names. A column stands upright and a row lies, so that one sees which is which; more than
/// two axes are stacked.
[[nodiscard]] Grid grid_of(const Tensor& tensor, const AxisNames& names = {});

}  // namespace lattice
