#pragma once

#include "lattice/tensor/tensor.hpp"

/// The loops of the cross-entropy of scores [n × k] and class numbers [n].
namespace lattice::kernels {

/// log Σ exp(scores) − the score of the class that `classes` names, of each row: [n]. Scores are
/// [n × k].
[[nodiscard]] Tensor surprises(const Tensor& scores, const Tensor& classes);

/// exp(score − m) of every score, with the largest score m of its row.
[[nodiscard]] Tensor powers(const Tensor& scores);

/// The mean of `surprises` over rows, or the sum with `shares` of the rows where there are any.
/// @param powers where to put those of the scores; null if nowhere
[[nodiscard]] Tensor cross_entropy(const Tensor& scores, const Tensor& classes,
                                   const Tensor& shares, Tensor* powers = nullptr);

/// How that changes with each score, times `gradient`.
/// @param powers of the scores
[[nodiscard]] Tensor cross_entropy_slope(const Tensor& powers, const Tensor& classes,
                                         const Tensor& shares, double gradient);

}  // namespace lattice::kernels
