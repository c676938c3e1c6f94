#pragma once

#include "lattice/worksheet/worksheet.hpp"

namespace lattice {

/// Half the mean squared error, in one line: the mean of (z − y)² over all numbers, halved. The
/// same number as `0.5 * mean(square(z - y))`, with three lines less.
/// @throws ShapeError when the shapes differ: nothing is stretched, since [n × 1] against [n] would
///         quietly compare every guess with every target.
[[nodiscard]] Line half_mean_squared(const Line& z, const Line& y);
[[nodiscard]] Tensor half_mean_squared(const Tensor& z, const Tensor& y);

}  // namespace lattice
