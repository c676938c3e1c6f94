#include "lattice/data/scaling.hpp"

#include <fmt/format.h>

#include <cmath>

#include "lattice/tensor/error.hpp"
#include "tensor/kernels.hpp"

namespace lattice {
namespace {

void check_table(const Tensor& features) {
  if (features.shape().rank() == 2) return;
  throw ShapeError({.what = "scaling works on a table of features",
                    .expected = "[example × feature]",
                    .found = to_string(features.shape())});
}

}  // namespace

Tensor Scaling::scaled(const Tensor& raw) const {
  check_table(raw);
  if (raw.shape()[1] != centre.count()) {
    throw ShapeError({.what = "other features than the scaling was fitted on",
                      .expected = fmt::format("{} features", centre.count()),
                      .found = fmt::format("{} features", raw.shape()[1])});
  }
  const auto subtract = [](const auto& a, const auto& b) { return a - b; };
  const auto divide = [](const auto& a, const auto& b) { return a / b; };
  return kernels::stretch(raw.shape(), kernels::stretch(raw.shape(), raw, centre, subtract), spread,
                          divide);
}

Scaling fit_standard_scaling(const Tensor& features) {
  check_table(features);
  const Shape shape = Shape{features.shape()[1]}.with({Role::feature});
  const std::int64_t rows = features.shape()[0];
  Tensor centre = zeros(shape, features.precision());
  Tensor spread = zeros(shape, features.precision());
  for (std::int64_t feature = 0; feature < shape[0]; ++feature) {
    double mean = 0.0;
    for (std::int64_t row = 0; row < rows; ++row)
      mean += features.at({row, feature});
    mean /= static_cast<double>(rows);
    double squares = 0.0;
    for (std::int64_t row = 0; row < rows; ++row) {
      const double apart = features.at({row, feature}) - mean;
      squares += apart * apart;
    }
    const double deviation = std::sqrt(squares / static_cast<double>(rows));
    centre.set({feature}, mean);
    spread.set({feature}, deviation > 0.0 ? deviation : 1.0);
  }
  return {std::move(centre), std::move(spread)};
}

}  // namespace lattice
