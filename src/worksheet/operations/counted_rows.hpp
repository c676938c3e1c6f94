#pragma once

#include <cstddef>
#include <string_view>

#include "lattice/worksheet/operation.hpp"

/// What losses have in common: rows that count more or less, by their third input.
namespace lattice {

inline constexpr std::size_t counted_input = 2;

/// Refuses numbers of rows that cannot be: of another shape, below 0, or none above.
void check_counted(std::string_view name, const Inputs& inputs);

/// How much each row weighs in the mean: its share of what counts, [n].
[[nodiscard]] Tensor shares_of_rows(const Inputs& inputs);

/// What the sum over all rows is divided by: their number, or the sum of what counts.
[[nodiscard]] Formula total_counted(const Cells& cells, bool counted);

[[nodiscard]] Tensor as_column(const Tensor& x);

}  // namespace lattice
