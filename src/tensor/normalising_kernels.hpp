#pragma once

#include "lattice/tensor/tensor.hpp"

/// Loops over tensors [… × column] in which each column, the numbers at one place of the last axis,
/// has numbers of its own [column].
namespace lattice::kernels {

/// (x − mean)·factor + shift.
[[nodiscard]] Tensor normalised_columns(const Tensor& x, const Tensor& mean, const Tensor& factor,
                                        const Tensor& shift);

/// Of each column, the mean of (x − mean)².
[[nodiscard]] Tensor variance_of_columns(const Tensor& x, const Tensor& mean);

/// Of each column, Σ gradient and Σ gradient·(x − mean).
struct ColumnSums {
  Tensor gradient;
  Tensor with_distance;
};
[[nodiscard]] ColumnSums sums_of_columns(const Tensor& gradient, const Tensor& x,
                                         const Tensor& mean);

/// gradient·factor + constant + (x − mean)·slope.
[[nodiscard]] Tensor gradient_at_columns(const Tensor& gradient, const Tensor& x,
                                         const Tensor& mean, const Tensor& factor,
                                         const Tensor& constant, const Tensor& slope);

}  // namespace lattice::kernels
