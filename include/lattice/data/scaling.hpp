#pragma once

#include <optional>
#include <string_view>

#include "lattice/tensor/tensor.hpp"

namespace lattice {

/// How features, or numbers to predict, are brought to a common size.
enum class ScalingKind {
  none,      ///< as they are
  standard,  ///< mean 0 and spread 1
  min_max    ///< from 0 to 1
};

/// The word for a kind: `none`, `standard`, `min-max`.
[[nodiscard]] std::string_view word(ScalingKind kind);

/// Factors that bring features to a common size: x = (raw − centre) / spread, feature by feature.
/// They are fitted once and used on every later record; a single record is never scaled by itself.
struct Scaling {
  Tensor centre;  ///< [feature], in the unit of each feature
  Tensor spread;  ///< [feature], in the unit of each feature; never 0

  /// The scaled features, [example × feature].
  /// @throws ShapeError when there are more or fewer features than factors.
  [[nodiscard]] Tensor scaled(const Tensor& raw) const;

  /// The way back: scaled · spread + centre. @throws as `scaled` does.
  [[nodiscard]] Tensor raw(const Tensor& scaled) const;

  /// The same factors in another precision.
  [[nodiscard]] Scaling in(Precision precision) const;
};

/// Centre = mean and spread = standard deviation (over n) of each feature, so that the scaled
/// features have mean 0 and spread 1. The spread of a constant feature is taken as 1.
/// @throws ShapeError unless the features are [example × feature].
[[nodiscard]] Scaling fit_standard_scaling(const Tensor& features);

/// Centre = the smallest number and spread = the largest less the smallest of each feature, so that
/// the scaled features reach from 0 to 1. The spread of a constant feature is taken as 1.
/// @throws ShapeError unless the features are [example × feature].
[[nodiscard]] Scaling fit_min_max_scaling(const Tensor& features);

/// Factors of a kind; nothing for `none`. @throws as the two above do.
[[nodiscard]] std::optional<Scaling> fit_scaling(ScalingKind kind, const Tensor& features);

}  // namespace lattice
