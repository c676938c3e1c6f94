#pragma once

#include "lattice/tensor/tensor.hpp"

namespace lattice {

/// Factors that bring features to a common size: x = (raw − centre) / spread, feature by feature.
/// They are fitted once and used on every later record; a single record is never scaled by itself.
struct Scaling {
  Tensor centre;  ///< [feature], in the unit of each feature
  Tensor spread;  ///< [feature], in the unit of each feature; never 0

  /// The scaled features, [example × feature].
  /// @throws ShapeError when there are more or fewer features than factors.
  [[nodiscard]] Tensor scaled(const Tensor& raw) const;
};

/// Centre = mean and spread = standard deviation (over n) of each feature, so that the scaled
/// features have mean 0 and spread 1. The spread of a constant feature is taken as 1.
/// @throws ShapeError unless the features are [example × feature].
[[nodiscard]] Scaling fit_standard_scaling(const Tensor& features);

}  // namespace lattice
