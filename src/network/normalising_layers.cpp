#include "lattice/network/normalising_layers.hpp"

#include <fmt/format.h>

#include "lattice/network/pass.hpp"
#include "lattice/text/error.hpp"
#include "lattice/text/numbers.hpp"
#include "lattice/worksheet/operations/arithmetic.hpp"
#include "lattice/worksheet/operations/normalising.hpp"

namespace lattice {
namespace {

/// Axes of a minibatch from one on.
std::vector<int> axes_to(int first, int end) {
  std::vector<int> axes;
  for (int axis = first; axis < end; ++axis)
    axes.push_back(axis);
  return axes;
}

}  // namespace

std::string Normalise::text() const {
  const Normalise usual;
  std::string text = over == NormalisedOver::example ? "normalise each example" : "normalise";
  if (decay != usual.decay) text += fmt::format(" decay {}", decay);
  if (epsilon != usual.epsilon) text += fmt::format(" epsilon {}", epsilon);
  return text;
}

Shape Normalise::shape(const Shape& example) const {
  if (!(decay >= 0.0) || decay >= 1.0) {
    throw SettingError({.what = "normalise cannot have this decay",
                        .expected = "0 or more, and below 1, such as 0.9",
                        .found = format_number(decay)});
  }
  if (!(epsilon > 0.0)) {
    throw SettingError({.what = "the epsilon of normalise is not above 0",
                        .expected = "a number above 0, such as 1e-5",
                        .found = format_number(epsilon)});
  }
  if (example.rank() > 0) return example;
  throw ShapeError({.what = "normalise needs examples with numbers",
                    .expected = "[feature], or [row × column × channel]",
                    .found = to_string(example)});
}

std::vector<WeightNeed> Normalise::weights(const Shape& example) const {
  const int last = example.rank() - 1;
  const Shape each = Shape{example[last]}.with({example.role(last)});
  std::vector<WeightNeed> needs = {
      {.name = "scale", .shape = each, .start = Start::constant(1.0), .bias = true},
      {.name = "shift", .shape = each, .bias = true}};
  if (over == NormalisedOver::minibatch) {
    needs.push_back({.name = "mean", .shape = each, .is_running = true});
    needs.push_back(
        {.name = "variance", .shape = each, .start = Start::constant(1.0), .is_running = true});
  }
  return needs;
}

Line Normalise::forward(const Line& x, Pass& pass) const {
  const NormalisationSettings settings{.epsilon = epsilon, .form = pass.phase().form()};
  const Line scale = pass.weight("scale");
  const Line shift = pass.weight("shift");
  const int rank = x.shape().rank();
  const auto called = [&](const char* name, const Line& line) {
    named(fmt::format("{}.{}", pass.name(), name), line);
  };
  if (over == NormalisedOver::example) {
    const auto by = normalised_along(x, scale, shift, {.axes = axes_to(1, rank)}, settings);
    called("example-mean", by.mean);
    called("example-variance", by.variance);
    return by.result;
  }
  const Line mean = pass.weight("mean");
  const Line variance = pass.weight("variance");
  if (!pass.phase().is_training()) return normalised(x, mean, variance, scale, shift, settings);
  const auto by = normalised_along(x, scale, shift, {.axes = axes_to(0, rank - 1)}, settings);
  called("batch-mean", by.mean);
  called("batch-variance", by.variance);
  const auto moved = [&](const char* name, const Line& running, const Line& batch) {
    const auto part = [&](const char* what, const Line& line) {
      return described(fmt::format("{}.{}-{}", pass.name(), name, what), line);
    };
    return part("kept", decay * running) + part("added", (1.0 - decay) * batch);
  };
  pass.set_next("mean", moved("mean", mean, by.mean));
  pass.set_next("variance", moved("variance", variance, by.variance));
  return by.result;
}

}  // namespace lattice
