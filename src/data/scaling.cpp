#include "lattice/data/scaling.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "lattice/text/error.hpp"
#include "tensor/array_kernels.hpp"

namespace lattice {
namespace {

void check_table(const Tensor& features) {
  if (features.shape().rank() == 2) return;
  throw ShapeError({.what = "scaling works on a table of features",
                    .expected = "[example × feature]",
                    .found = to_string(features.shape())});
}

void check_fits(const Tensor& features, const Tensor& factors) {
  check_table(features);
  if (features.shape()[1] == factors.count()) return;
  throw ShapeError({.what = "other features than the scaling was fitted on",
                    .expected = fmt::format("{} features", factors.count()),
                    .found = fmt::format("{} features", features.shape()[1])});
}

/// A centre and a spread for each column, from `of_column(numbers)`, which gives both.
template <class OfColumn>
Scaling by_column(const Tensor& features, OfColumn of_column) {
  check_table(features);
  const Shape shape = Shape{features.shape()[1]}.with({features.shape().role(1)});
  Scaling scaling{zeros(shape, features.precision()), ones(shape, features.precision())};
  std::vector<double> column(static_cast<std::size_t>(features.shape()[0]));
  for (std::int64_t feature = 0; feature < shape[0]; ++feature) {
    for (std::size_t row = 0; row < column.size(); ++row)
      column[row] = features.at({static_cast<std::int64_t>(row), feature});
    const auto [centre, spread] = of_column(column);
    scaling.centre.set({feature}, centre);
    if (spread > 0.0) scaling.spread.set({feature}, spread);
  }
  return scaling;
}

}  // namespace

std::string_view word(ScalingKind kind) {
  switch (kind) {
    case ScalingKind::none:
      return "none";
    case ScalingKind::standard:
      return "standard";
    case ScalingKind::min_max:
      return "min-max";
  }
  return "";
}

Tensor Scaling::scaled(const Tensor& raw) const {
  check_fits(raw, centre);
  const auto subtract = [](const auto& a, const auto& b) { return a - b; };
  const auto divide = [](const auto& a, const auto& b) { return a / b; };
  return kernels::stretch(raw.shape(), kernels::stretch(raw.shape(), raw, centre, subtract), spread,
                          divide);
}

Tensor Scaling::raw(const Tensor& scaled) const {
  check_fits(scaled, centre);
  const auto multiply = [](const auto& a, const auto& b) { return a * b; };
  const auto add = [](const auto& a, const auto& b) { return a + b; };
  const Shape& shape = scaled.shape();
  return kernels::stretch(shape, kernels::stretch(shape, scaled, spread, multiply), centre, add);
}

Scaling Scaling::in(Precision precision) const {
  return {centre.in(precision), spread.in(precision)};
}

Scaling fit_standard_scaling(const Tensor& features) {
  return by_column(features, [](const std::vector<double>& numbers) {
    const auto count = static_cast<double>(numbers.size());
    double mean = 0.0;
    for (const double number : numbers)
      mean += number;
    mean /= count;
    double squares = 0.0;
    for (const double number : numbers)
      squares += (number - mean) * (number - mean);
    return std::pair(mean, std::sqrt(squares / count));
  });
}

Scaling fit_min_max_scaling(const Tensor& features) {
  return by_column(features, [](const std::vector<double>& numbers) {
    const auto [low, high] = std::ranges::minmax(numbers);
    return std::pair(low, high - low);
  });
}

std::optional<Scaling> fit_scaling(ScalingKind kind, const Tensor& features) {
  switch (kind) {
    case ScalingKind::none:
      return std::nullopt;
    case ScalingKind::standard:
      return fit_standard_scaling(features);
    case ScalingKind::min_max:
      return fit_min_max_scaling(features);
  }
  return std::nullopt;
}

}  // namespace lattice
