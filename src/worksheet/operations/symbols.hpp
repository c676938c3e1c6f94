#pragma once

#include <string>
#include <vector>

#include "lattice/worksheet/operation.hpp"
#include "tensor/kernels.hpp"

namespace lattice {

/// How operations that work number by number write products, apart from matrix products.
inline const Notation number_by_number{.times = " × "};

/// The axes of a set, by role or by number: `example`, `row, column`, `axis 1`.
[[nodiscard]] std::string describe_axes(kernels::AxisSet axes, const Shape& shape);

/// `Σ example ` when an input was stretched along the examples of the result; empty when it was not
/// stretched at all.
[[nodiscard]] std::string summed_over(const Symbols& symbols, std::size_t input);

/// Every place of the stretched shape at which the number at `at` was used.
[[nodiscard]] std::vector<Index> places_of_use(const Shape& shape, const Shape& stretched,
                                               const Index& at);

/// Every place of `shape` that agrees with `at` on the axes that are not in the set. `at` has the
/// rank of `shape`; its positions on axes of the set do not matter.
[[nodiscard]] std::vector<Index> places_along(kernels::AxisSet axes, const Shape& shape,
                                              const Index& at);

}  // namespace lattice
