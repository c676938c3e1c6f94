#pragma once

#include "lattice/tensor/tensor.hpp"
#include "tensor/axes.hpp"
#include "tensor/kernels.hpp"

/// What uses the stored entries of a sparse matrix only.
namespace lattice::kernels {

/// The product of a sparse matrix, as it is or turned, with a matrix. That of a matrix which stores
/// nothing but its whole diagonal stores the same places as `a`.
[[nodiscard]] Tensor sparse_product(const Tensor& a, Turned a_turned, const Tensor& b,
                                    const Shape& shape);

/// The sum along one axis of a sparse matrix, or along both.
[[nodiscard]] Tensor sparse_sum(const Tensor& x, AxisSet axes, const Shape& shape, double divisor);

/// 1 more on the diagonal of a square matrix, sparse or not.
[[nodiscard]] Tensor with_loops(const Tensor& x);

/// Each number of a matrix, sparse or not, times that of its row and that of its column.
[[nodiscard]] Tensor scaled_both(const Tensor& x, const Tensor& rows, const Tensor& columns);

/// What comes back to the numbers of the rows, or else to those of the columns.
/// @param other the numbers of the others
[[nodiscard]] Tensor scaled_both_slope(const Tensor& gradient, const Tensor& x, const Tensor& other,
                                       bool is_of_rows);

}  // namespace lattice::kernels
