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
  Index worst = {};     ///< the index of the largest difference
  double hand = 0.0;    ///< the number there in the first
  double engine = 0.0;  ///< the number there in the second
  double error = 0.0;   ///< how far apart they are there, as a part of the largest number of both,
                        ///< or of the terms that were summed up, where these are larger
  std::string hint = {};  ///< what the difference looks like, when it looks like something

  /// `agree: …` or `differ: …`, in one or two lines.
  [[nodiscard]] std::string text() const;
};

/// Compares a gradient derived by hand with the engine's, or any two tensors of one shape.
///
/// @code
/// fmt::print("{}\n", agreement(dW_by_hand, gradients["W"]));
/// // differ: at [1,0] 0.5 by hand, 0.125 by the engine (an error of 0.75)
/// //   by hand every number is 4 times the engine's: was a factor left out?
/// @endcode
/// @param tolerance the largest error that counts as rounding; when left out 1e−9, or 1e−4 where
///        either is in single precision
/// @param terms how large all the terms together are that were summed up to the numbers, where that
///        is known: a sum that is nearly 0 is no more exact than its terms. Of a sweep `agreement`
///        in gradient_check.hpp finds it out
/// @throws ShapeError when the shapes differ, saying so when one is the other turned
[[nodiscard]] Agreement agreement(const Tensor& hand, const Tensor& engine,
                                  std::optional<double> tolerance = std::nullopt,
                                  double terms = 0.0);

}  // namespace lattice

template <>
struct fmt::formatter<lattice::Agreement> : lattice::detail::Printed<lattice::Agreement> {};
