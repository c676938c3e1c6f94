#pragma once

#include <cstddef>
#include <string>
#include <string_view>

#include "lattice/worksheet/operation.hpp"
#include "lattice/worksheet/operations/rearranging.hpp"

/// What losses have in common: examples along whichever axis, and rows that count more or less, by
/// their third input.
namespace lattice {

inline constexpr std::size_t weights_input = 2;

/// Refuses numbers of rows that cannot be: of another shape, below 0, or none above.
void check_counted(std::string_view name, const Inputs& inputs);

/// A number for each example beside all the numbers of each: row_weights, or what each weighs.
template <class X>
[[nodiscard]] X beside_examples(const X& row_weights, const Shape& x) {
  Shape shape = x;
  for (int axis = 0; axis < x.rank(); ++axis)
    shape = axis == axis_of_examples(x) ? shape : shape.with_extent(axis, 1);
  return reshape(row_weights, shape);
}

/// A loss as a function in a sheet: `mean_squared(z, y; weighted by counts)`.
[[nodiscard]] std::string loss_call(std::string_view name, const Symbols& symbols);

/// How much each row weighs in the mean: its share of what counts, [n].
[[nodiscard]] Tensor normalised_row_weights(const Inputs& inputs);

/// What the sum over all rows is divided by: their number, or the sum of what counts.
[[nodiscard]] Formula total_weight(const Cells& cells, bool row_weights);

/// A table with examples along its first axis, whichever way it lies; and back, as a shape lies.
[[nodiscard]] Tensor by_rows(const Tensor& x);
[[nodiscard]] Tensor as_laid_out(const Tensor& rows, const Shape& shape);

/// Where an example has its number for a class in a table of such a shape.
[[nodiscard]] Index place_of(const Shape& shape, std::int64_t example, std::int64_t number);

}  // namespace lattice
