#pragma once

#include <cstdint>

#include "lattice/judging/model.hpp"

namespace lattice {

/// A range of a feature, in its unit.
struct Stretch {
  double low = 0.0;
  double high = 1.0;
};

/// The answers of a model on a grid of two features.
struct DecisionMap {
  Tensor across;              ///< [column], values of the first feature
  Tensor up;                  ///< [row], values of the second feature
  Tensor classes = {};        ///< [row × column], the likeliest class; empty for numeric targets
  Tensor probabilities = {};  ///< [row × column × class]
  Tensor numbers = {};        ///< [row × column], the prediction; empty for classes
};

/// Asks a model of two features on a grid.
/// @param count the number of values of each feature, 2 or more
/// @throws ShapeError when the model has other than two features, SettingError for several targets,
///         a count below 2 or an empty range.
[[nodiscard]] DecisionMap decision_map(const Model& model, Stretch across, Stretch up,
                                       std::int64_t count = 100);

/// The range of a feature of a dataset, and a twentieth more on each side.
[[nodiscard]] Stretch stretch_of(const Tensor& features, std::int64_t feature);

}  // namespace lattice
