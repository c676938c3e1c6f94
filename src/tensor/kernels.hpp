#pragma once

#include <array>
#include <cstdint>

#include "lattice/tensor/tensor.hpp"

/// The loops behind the operations; those that are generic in a function are in array_kernels.hpp.
namespace lattice::kernels {

/// Which axes a reduction brings together, one bit an axis.
using AxisSet = unsigned;

[[nodiscard]] constexpr bool contains(AxisSet axes, int axis) {
  return ((axes >> axis) & 1U) != 0;
}

/// Sums over some axes, divided by `divisor`; the result gets `shape`, which has as many numbers as
/// are left. The order of summation depends on the shape alone.
[[nodiscard]] Tensor sum(const Tensor& x, AxisSet axes, const Shape& shape, double divisor = 1.0);

/// The shape of what is left when the axes of a set are kept with an extent of 1.
[[nodiscard]] Shape kept(const Shape& shape, AxisSet axes);

/// Which of several numbers is looked for.
enum class End { largest, smallest };

/// The outermost number along some axes; the result gets `shape`.
[[nodiscard]] Tensor outermost(End end, const Tensor& x, AxisSet axes, const Shape& shape);
[[nodiscard]] inline Tensor largest(const Tensor& x, AxisSet axes, const Shape& shape) {
  return outermost(End::largest, x, axes, shape);
}

/// How many places along some axes come before the first largest number; the result gets `shape`.
[[nodiscard]] Tensor first_largest(const Tensor& x, AxisSet axes, const Shape& shape);

/// Each number of `gradient` at the place of the first outermost number of `x` along some axes, and
/// 0 elsewhere; of the shape of `x`.
[[nodiscard]] Tensor to_first_outermost(End end, const Tensor& x, AxisSet axes,
                                        const Tensor& gradient);

/// exp(x − y), with y stretched to the shape of x.
[[nodiscard]] Tensor exp_of_difference(const Tensor& x, const Tensor& y);

/// log Σ exp(x) along some axes, in two parts: the largest number m, and log Σ exp(x − m), which is
/// worked from what the others add to m's own 1, so that no digit is lost where that is little.
struct LogTotal {
  Tensor largest;
  Tensor logarithm;
};
[[nodiscard]] LogTotal log_total(const Tensor& x, AxisSet axes, const Shape& shape);

/// The opposite of `sum`: each number of `x`, divided by `divisor`, at every place of `shape` that
/// `sum` over `axes` brought to it.
[[nodiscard]] Tensor broadcast_back(const Tensor& x, AxisSet axes, const Shape& shape,
                                    double divisor);

/// The sum over every axis along which a tensor of `shape` is stretched to the shape of `x`.
[[nodiscard]] Tensor sum_stretched(const Tensor& x, const Shape& shape);

/// The axes of `stretched` along which `shape` is stretched to it.
[[nodiscard]] AxisSet stretched_axes(const Shape& shape, const Shape& stretched);

/// Whether a factor of a product is taken as it is or with rows and columns exchanged.
enum class Turned { no, yes };

[[nodiscard]] constexpr Turned other_way(Turned turned) {
  return turned == Turned::no ? Turned::yes : Turned::no;
}

/// The matrix product of two tensors of rank 2 or more, either turned. The last two axes are the
/// matrices; the others are stretched to those of the result, which gets `shape`.
[[nodiscard]] Tensor product(const Tensor& a, Turned a_turned, const Tensor& b, Turned b_turned,
                             const Shape& shape);

/// The product of two matrices, and `b` added to each of its rows, which are as long.
[[nodiscard]] Tensor product_and_bias(const Tensor& x, const Tensor& W, const Tensor& b,
                                      const Shape& shape);

/// A tensor with one number everywhere.
[[nodiscard]] Tensor filled(const Shape& shape, Precision precision, double number);

[[nodiscard]] Tensor transpose(const Tensor& x, const Shape& shape);

/// Adds `more` to `total`, in place when no one else holds its numbers. Shapes are the same.
void add(Tensor& total, const Tensor& more);

}  // namespace lattice::kernels
