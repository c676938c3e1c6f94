#include "lattice/judging/decision_map.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "lattice/text/error.hpp"

namespace lattice {
namespace {

void check(const Model& model, Stretch across, Stretch up, std::int64_t count) {
  const Shape example = model.network.example();
  if (example != Shape{2}) {
    throw ShapeError({.what = "a decision map needs a network with two features",
                      .expected = "a network for [feature 2]",
                      .found = to_string(example)});
  }
  if (model.class_names.empty() && model.target_names.size() > 1) {
    throw SettingError({.what = "a decision map needs one target, or classes",
                        .expected = "a model with a single target",
                        .found = fmt::format("{} targets", model.target_names.size()),
                        .advice = {"target", model.target_names.front()}});
  }
  const bool is_empty = !(across.low < across.high) || !(up.low < up.high);
  if (count >= 2 && !is_empty) return;
  throw SettingError(
      {.what = "there is no plane to map",
       .expected = "two values or more of each feature, the low end below the high end",
       .found = fmt::format("{} values from {} to {} and from {} to {}", count, across.low,
                            across.high, up.low, up.high)});
}

}  // namespace

DecisionMap decision_map(const Model& model, Stretch across, Stretch up, std::int64_t count) {
  check(model, across, up, count);
  const Precision precision = model.network.precision();
  DecisionMap map{.across = evenly_spaced(across.low, across.high, count, precision),
                  .up = evenly_spaced(up.low, up.high, count, precision)};
  std::vector<double> points;
  points.reserve(static_cast<std::size_t>(2 * count * count));
  for (const double second : map.up.numbers()) {
    for (const double first : map.across.numbers())
      points.insert(points.end(), {first, second});
  }
  const Answers answers =
      ask(model,
          tensor(Shape{count * count, 2}.with({Role::example, Role::feature}), points, precision));
  if (model.class_names.empty()) {
    map.numbers = answers.numbers.reshaped({count, count});
    return map;
  }
  map.classes = answers.classes.reshaped({count, count});
  map.probabilities = answers.probabilities.reshaped(
      {count, count, static_cast<std::int64_t>(model.class_names.size())});
  return map;
}

Stretch stretch_of(const Tensor& features, std::int64_t feature) {
  double low = features.at({0, feature});
  double high = low;
  for (std::int64_t row = 1; row < features.shape()[0]; ++row) {
    low = std::min(low, features.at({row, feature}));
    high = std::max(high, features.at({row, feature}));
  }
  const double spare = high > low ? (high - low) / 20.0 : 0.5;
  return {low - spare, high + spare};
}

}  // namespace lattice
