#include "lattice/learning/worked_example.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>

#include "lattice/tensor/error.hpp"

namespace lattice {

WorkedExample::WorkedExample(const WriteDown& write_down, const Weights& weights, Batch batch,
                             Descent rule)
    : batch_(std::move(batch)),
      rule_(rule),
      cost_(write_down(sheet_, weights, batch_)),
      sweep_(cost_) {
  while (sweep_.next())
    steps_.push_back(sweep_.step());
  Weights updated = weights;
  for (const Weight& weight : weights) {
    const Line line = sheet_.line(weight.name);
    if (!sweep_.has_reached(line)) continue;
    const Tensor& gradient = sweep_.gradient(line);
    Tensor after = rule_.updated(weight.value, gradient);
    updated[weight.name] = after;
    updates_.push_back({weight.name, weight.value, gradient, std::move(after)});
  }
  Worksheet again;
  loss_after_ = write_down(again, updated, batch_).value().number();
}

Explanation WorkedExample::why(const Place& place, Ask ask) const {
  const Line line = sheet_.line(place.line);
  if (ask == Ask::value) return explain(line, place.at);
  if (ask == Ask::gradient) return explain_gradient(sweep_, line, place.at);
  static_cast<void>(
      explain(line, place.at));  // refuses a place that is not there, by the line's name
  const auto update = std::ranges::find(updates_, place.line, &Update::weight);
  if (update == updates_.end()) {
    std::vector<std::string> names;
    for (const Update& each : updates_)
      names.push_back(each.weight);
    throw NameError({.what = fmt::format("{} is not updated", place.line),
                     .where = fmt::format("line {}", line.number()),
                     .expected = fmt::format("a weight: one of {}", fmt::join(names, ", ")),
                     .found = std::string(line.operation())});
  }
  return rule_.explain_update(line, update->before, update->gradient, place.at);
}

Chain WorkedExample::why(const Place& place, Ask ask, int depth, const Notation& notation) const {
  return explain_further(why(place, ask), sheet_, &sweep_, depth, notation);
}

GradientCheck WorkedExample::check(const CheckSettings& settings) const {
  return check_gradients(cost_, settings);
}

}  // namespace lattice
