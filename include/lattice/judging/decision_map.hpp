#pragma once

#include <cstdint>

#include "lattice/judging/model.hpp"

namespace lattice {

/// The stretch of a feature that is looked at, in the unit of the data.
struct Stretch {
  double low = 0.0;
  double high = 1.0;
};

/// What a model answers all over a plane of two features.
struct DecisionMap {
  Tensor across;        ///< [column], values of the first feature
  Tensor up;            ///< [row], values of the second feature
  Tensor classes = {};  ///< [row × column], the likeliest class; empty where numbers are learnt
  Tensor probabilities = {};  ///< [row × column × class]
  Tensor numbers = {};  ///< [row × column], what is predicted; empty where classes are learnt
};

/// Asks a model of two features all over a plane.
/// @param count how many values of each feature, 2 or more
/// @throws ShapeError when the model has other than two features, SettingError for several targets,
///         a count below 2 or an empty stretch.
[[nodiscard]] DecisionMap decision_map(const Model& model, Stretch across, Stretch up,
                                       std::int64_t count = 100);

/// The stretch that holds all values of a feature of a dataset, and a twentieth more on each side.
[[nodiscard]] Stretch stretch_of(const Tensor& features, std::int64_t feature);

}  // namespace lattice
