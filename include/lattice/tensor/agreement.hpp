#pragma once

#include <optional>
#include <string>

#include "lattice/tensor/tensor.hpp"
#include "lattice/text/printing.hpp"

namespace lattice {

/// Whether two tensors are equal up to rounding, and where they differ most.
struct Agreement {
  bool agrees = false;
  double tolerance = 0.0;
  Index worst = {};       ///< the index of the largest difference
  double hand = 0.0;      ///< the number there in the first
  double engine = 0.0;    ///< the number there in the second
  double error = 0.0;     ///< their difference there, divided by the largest number of both
                          ///< tensors, or of the summed terms if these are larger
  std::string hint = {};  ///< a likely cause of the difference, or empty

  /// `agree: …` or `differ: …`, in one or two lines.
  [[nodiscard]] std::string text() const;
};

/// Compares a gradient derived by hand with the engine's, or any two tensors of the same shape.
///
/// @code
/// fmt::print("{}\n", agreement(dW_by_hand, gradients["W"]));
/// // differ: at [1,0] 0.5 by hand, 0.125 by the engine (an error of 0.75)
/// //   by hand every number is 4 times the engine's: was a factor left out?
/// @endcode
/// @param tolerance the largest error that counts as rounding; by default 1e−9, or 1e−4 if either
///        is in single precision
/// @param terms the sum of the magnitudes of the terms behind each number, if known: a sum near 0
///        is no more exact than its terms. For a sweep, `agreement` in gradient_check.hpp
///        calculates it
/// @throws ShapeError when the shapes differ; it says so if one is the transpose of the other
[[nodiscard]] Agreement agreement(const Tensor& hand, const Tensor& engine,
                                  std::optional<double> tolerance = std::nullopt,
                                  double terms = 0.0);

}  // namespace lattice

template <>
struct fmt::formatter<lattice::Agreement> : lattice::detail::Printed<lattice::Agreement> {};
