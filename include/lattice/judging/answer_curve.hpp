#pragma once

#include <cstdint>

#include "lattice/judging/decision_map.hpp"
#include "lattice/judging/model.hpp"

namespace lattice {

/// The predictions of a model along its only feature.
struct AnswerCurve {
  Tensor across;   ///< [point], values of the feature
  Tensor numbers;  ///< [point × target], in their units
};

/// Asks a model of one feature along a range.
/// @param count the number of values, 2 or more
/// @throws ShapeError when the model has another number of features, SettingError for a
///         model of classes, a count below 2 or an empty range.
[[nodiscard]] AnswerCurve answer_curve(const Model& model, Stretch across,
                                       std::int64_t count = 201);

}  // namespace lattice
