#include "lattice/judging/answer_curve.hpp"

#include <fmt/format.h>

#include "lattice/text/error.hpp"

namespace lattice {

AnswerCurve answer_curve(const Model& model, Stretch across, std::int64_t count) {
  if (model.network.example() != Shape{1}) {
    throw ShapeError({.what = "a line chart needs a network with one feature",
                      .expected = "a network for [feature 1]",
                      .found = to_string(model.network.example()),
                      .remedy = "take one column",
                      .advice = {"features", "a"}});
  }
  if (!model.class_names.empty()) {
    throw SettingError({.what = "a line chart needs a numeric target",
                        .expected = "a lesson with a numeric target",
                        .found = fmt::format("classes of {}", model.target_names.front()),
                        .remedy = "for classes of two features: lattice draw regions"});
  }
  if (count < 2 || !(across.low < across.high)) {
    throw SettingError(
        {.what = "there is no line to draw",
         .expected = "two values or more, the low end below the high end",
         .found = fmt::format("{} values from {} to {}", count, across.low, across.high)});
  }
  const Tensor values = evenly_spaced(across.low, across.high, count, model.network.precision());
  const Tensor records = values.reshaped({count, 1}).with({Role::example, Role::feature});
  return {.across = values, .numbers = ask(model, records).numbers};
}

}  // namespace lattice
