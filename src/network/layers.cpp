#include "lattice/network/layers.hpp"

#include <fmt/format.h>

#include <cmath>

#include "lattice/text/error.hpp"
#include "lattice/text/numbers.hpp"
#include "lattice/worksheet/operations/along_axes.hpp"
#include "lattice/worksheet/operations/arithmetic.hpp"
#include "lattice/worksheet/operations/products.hpp"
#include "lattice/worksheet/operations/rearranging.hpp"

namespace lattice {
namespace {

constexpr std::int64_t most_units = 1'000'000;

void check_is_row(const Shape& example, std::string_view layer) {
  if (example.rank() == 1) return;
  throw ShapeError({.what = fmt::format("{} needs a row of numbers for each example", layer),
                    .expected = "[feature]",
                    .found = to_string(example),
                    .remedy = example.rank() > 1 ? "put flatten in front of it" : ""});
}

/// What stands along an axis of units once the 1 for the bias stands behind them.
Role with_bias(Role role) {
  return role == Role::unit ? Role::input : role;
}

}  // namespace

std::string Dense::text() const {
  std::string text = fmt::format("dense {}", outputs);
  if (bias == Bias::none) text += " without bias";
  if (bias == Bias::as_input) text += " with bias as input";
  if (start != Start::xavier()) text += " start " + start.text();
  if (bias_start != Start::zeros()) text += " bias start " + bias_start.text();
  return text;
}

Shape Dense::shape(const Shape& example) const {
  check_is_row(example, "dense");
  if (outputs < 1 || outputs > most_units) {
    throw SettingError({.what = fmt::format("a dense layer cannot have {} units", outputs),
                        .expected = fmt::format("1 to {}", most_units),
                        .found = fmt::format("{}", outputs)});
  }
  return Shape{outputs}.with({Role::unit});
}

std::vector<WeightNeed> Dense::weights(const Shape& example) const {
  const std::int64_t inputs = example[0];
  const bool with_one = bias == Bias::as_input;
  const std::int64_t rows = with_one ? inputs + 1 : inputs;
  const Role role = with_one ? with_bias(example.role(0)) : example.role(0);
  std::vector<WeightNeed> needs = {{.name = "weight",
                                    .shape = Shape{rows, outputs}.with({role, Role::unit}),
                                    .inputs = inputs,
                                    .outputs = outputs,
                                    .start = start}};
  if (bias == Bias::added) {
    needs.push_back({.name = "bias",
                     .shape = Shape{outputs}.with({Role::unit}),
                     .inputs = inputs,
                     .outputs = outputs,
                     .start = bias_start});
  }
  return needs;
}

Line Dense::forward(const Line& x, Pass& pass) const {
  switch (bias) {
    case Bias::none:
      return matmul(x, pass.weight("weight"));
    case Bias::as_input: {
      const Line with_one =
          lattice::named(pass.name() + ".input", pad(x, 1, {.after = 1, .number = 1.0}));
      return matmul(labelled(1, with_bias(x.shape().role(1)), with_one), pass.weight("weight"));
    }
    case Bias::added:
      break;
  }
  const Line weight = pass.weight("weight");
  return dense(x, weight, pass.weight("bias"), pass.phase().form());
}

Shape Softmax::shape(const Shape& example) {
  check_is_row(example, "softmax");
  return example;
}

Line Softmax::forward(const Line& x, Pass& pass) {
  return softmax(x, across_classes, pass.phase().form());
}

std::string Dropout::text() const {
  return fmt::format("dropout {}{}", share, channels ? " of channels" : "");
}

Shape Dropout::shape(const Shape& example) const {
  if (!std::isfinite(share) || share < 0.0 || share >= 1.0) {
    throw SettingError({.what = "dropout cannot leave out this share of the numbers",
                        .expected = "0 or more, and below 1",
                        .found = format_number(share)});
  }
  if (!channels || example.rank() == 3) return example;
  throw ShapeError({.what = "dropout of channels needs pictures",
                    .expected = "[row × column × channel]",
                    .found = to_string(example),
                    .remedy = "without 'of channels' it drops single numbers"});
}

Line Dropout::forward(const Line& x, Pass& pass) const {
  if (!pass.phase().is_training()) return x;
  Random& random = *pass.phase().random();
  const double grown = 1.0 / (1.0 - share);
  Shape shape = x.shape();
  if (channels) {
    shape = Shape{shape[0], 1, 1, shape[3]}.with(
        {Role::example, Role::row, Role::column, Role::channel});
  }
  std::vector<double> mask(static_cast<std::size_t>(shape.count()));
  for (double& number : mask)
    number = random.uniform() < share ? 0.0 : grown;
  return x * pass.given("mask", tensor(shape, mask, x.value().precision()));
}

Shape OwnLayer::shape(const Shape& example) const {
  Weights trial;
  Random random(1);
  for (const WeightNeed& need : needs)
    trial.add({need.name, need.draw(random)});
  Worksheet sheet;
  Pass pass(sheet, trial, Phase::in_use());
  const Line result =
      carry_out(sheet.given("x", zeros(example.with_first_axis(1, Role::example))), pass);
  return result.shape().without_first_axis();
}

Shape Flatten::shape(const Shape& example) {
  return Shape{example.count()}.with({Role::unit});
}

Line Flatten::forward(const Line& x, Pass&) {
  return flatten(x);
}

}  // namespace lattice
