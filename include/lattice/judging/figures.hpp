#pragma once

#include <cstdint>
#include <vector>

#include "lattice/tensor/tensor.hpp"

/// Figures about answers. Each is over all rows at once, never a mean of means over minibatches.
namespace lattice {

/// How many of each true class (row) were given each answer (column): [class × class].
/// @param answers,classes class numbers [example]
[[nodiscard]] Tensor confusion(const Tensor& answers, const Tensor& classes, std::int64_t count);

/// The share of answers that are right. @throws ShapeError when the counts differ.
[[nodiscard]] double accuracy(const Tensor& answers, const Tensor& classes);

/// The share of rows whose true class is among the `k` with the highest scores [example × class].
/// Of equal scores the lower class number comes first.
[[nodiscard]] double top_accuracy(const Tensor& scores, const Tensor& classes, std::int64_t k);

/// For each answer the class it is best taken for, so that as many rows as possible are right, for
/// groupings without names. No class is taken twice.
/// Source: the assignment method (Kuhn, 1955; Munkres, 1957).
/// @param confusion true classes by answers, square
[[nodiscard]] std::vector<std::int64_t> best_matching(const Tensor& confusion);

/// The share of rows that are right under a matching.
[[nodiscard]] double matched_accuracy(const Tensor& confusion,
                                      const std::vector<std::int64_t>& matching);

}  // namespace lattice
