#include "lattice/network/linear_model.hpp"

#include <fmt/format.h>

#include "lattice/tensor/error.hpp"
#include "lattice/worksheet/operations/along_axes.hpp"
#include "lattice/worksheet/operations/arithmetic.hpp"
#include "lattice/worksheet/operations/losses.hpp"
#include "lattice/worksheet/operations/products.hpp"

namespace lattice {

LinearModel LinearModel::start(const Dataset& data, Random& random) {
  const Shape& x = data.features.shape();
  const Shape& y = data.targets.shape();
  if (x.rank() != 2 || y.rank() != 2) {
    throw ShapeError({.what = "a linear model learns from tables",
                      .expected = "features [example × feature] and targets [example × unit]",
                      .found = fmt::format("{} and {}", to_string(x), to_string(y))});
  }
  const Precision precision = data.features.precision();
  const Shape of_W = Shape{x[1], y[1]}.with({Role::feature, Role::unit});
  const Shape of_b = Shape{y[1]}.with({Role::unit});
  return {
      .weights = {{"W", normal(of_W, 0.0, 0.1, random, precision)}, {"b", zeros(of_b, precision)}},
      .scaling = std::nullopt};
}

Line LinearModel::write_down(Worksheet& sheet, const Batch& batch) const {
  Line x;
  if (scaling) {
    sheet.section("scaling");
    const Line raw = sheet.given("raw", batch.features);
    const Line centre = sheet.given("centre", scaling->centre);
    const Line spread = sheet.given("spread", scaling->spread);
    x = named("x", (raw - centre) / spread);
    sheet.section("forward");
  } else {
    sheet.section("forward");
    x = sheet.given("x", batch.features);
  }
  const Line y = sheet.given("y", batch.targets);
  const Line W = sheet.weight("W", weights["W"]);
  const Line b = sheet.weight("b", weights["b"]);
  const Line z = named("z", matmul(x, W) + b);
  sheet.section("cost");
  const Line e = named("e", z - y);
  const Line s = named("s", square(e));
  const Line m = named("m", mean(s));
  return named("cost", 0.5 * m);
}

Line LinearModel::write_down_briefly(Worksheet& sheet, const Batch& batch) const {
  const Line x = sheet.given("x", batch.features);
  const Line y = sheet.given("y", batch.targets);
  const Line W = sheet.weight("W", weights["W"]);
  const Line b = sheet.weight("b", weights["b"]);
  const Line z = named("z", dense(x, W, b));
  return named("cost", half_mean_squared(z, y));
}

}  // namespace lattice
