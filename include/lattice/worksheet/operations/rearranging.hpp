#pragma once

#include <cstdint>
#include <initializer_list>
#include <span>
#include <vector>

#include "lattice/worksheet/worksheet.hpp"

/// Operations that put numbers in other places and calculate nothing. Axes are counted from 0, or
/// from the last, which is −1.
namespace lattice {

/// The same numbers in the same order, in another shape of as many.
/// @throws ShapeError when the counts differ.
template <Operand X>
[[nodiscard]] X reshape(const X& x, const Shape& shape);

/// Everything after the first axis in one: [example × row × column] becomes [example × row·column].
/// @throws ShapeError for a single number, which has no first axis.
template <Operand X>
[[nodiscard]] X flatten(const X& x);

/// The axes in another order: axis i of the result is axis `axes[i]` of x.
/// @throws ShapeError unless every axis is named once.
template <Operand X>
[[nodiscard]] X permute(const X& x, std::span<const int> axes);
template <Operand X>
[[nodiscard]] X permute(const X& x, std::initializer_list<int> axes) {
  return permute(x, std::span<const int>(axes.begin(), axes.size()));
}

/// Which positions along an axis are taken.
struct Range {
  std::int64_t from = 0;  ///< the first
  std::int64_t end = -1;  ///< one after the last; −1 for the end of the axis
  std::int64_t step = 1;  ///< 2 takes every other one
};

/// Some positions along an axis, and all along the others. The axis stays, even with one position.
///
/// @code
/// slice(x, 1, {.from = 1, .end = 3});   // columns 1 and 2
/// @endcode
/// @throws ShapeError when the axis is not there, IndexError when the range leaves it or is empty.
template <Operand X>
[[nodiscard]] X slice(const X& x, int axis, Range range);

/// Tensors one after another along an axis; along the others they have the same extents. More than
/// `most_inputs` are joined in several lines.
///
/// @code
/// join({x, ones}, 1);   // one more column: the bias as an input that is always 1
/// @endcode
/// @throws ShapeError when the axis is not there, there is nothing to join, or extents differ.
[[nodiscard]] Line join(const std::vector<Line>& parts, int axis);
[[nodiscard]] Tensor join(const std::vector<Tensor>& parts, int axis);

/// How many positions are added to an axis, and with what number.
struct PadWidth {
  std::int64_t before = 0;
  std::int64_t after = 0;
  double number = 0.0;
};

/// More positions in front of an axis and after it, all with one number.
/// @throws ShapeError when the axis is not there or a count is below 0.
template <Operand X>
[[nodiscard]] X pad(const X& x, int axis, PadWidth width);

/// The tensor `times` times, one after another along an axis.
/// @throws ShapeError when the axis is not there or `times` is below 1.
template <Operand X>
[[nodiscard]] X repeat(const X& x, int axis, std::int64_t times);

}  // namespace lattice
