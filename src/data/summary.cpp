#include "lattice/data/summary.hpp"

#include <algorithm>
#include <cmath>

namespace lattice {
namespace {

std::vector<NumberSummary> by_column(const Tensor& table, const std::vector<std::string>& names) {
  const Scaling scaling = fit_standard_scaling(table);
  const Scaling range = fit_min_max_scaling(table);
  const std::int64_t rows = table.shape()[0];
  std::vector<NumberSummary> columns;
  for (std::int64_t column = 0; column < table.shape()[1]; ++column) {
    NumberSummary summary{.name = names[static_cast<std::size_t>(column)],
                          .low = range.centre.at({column}),
                          .high = range.centre.at({column}),
                          .mean = scaling.centre.at({column})};
    for (std::int64_t row = 0; row < rows; ++row)
      summary.high = std::max(summary.high, table.at({row, column}));
    // The spread of a constant column is 1 among the factors, and 0 here.
    if (summary.high > summary.low) summary.spread = scaling.spread.at({column});
    columns.push_back(std::move(summary));
  }
  return columns;
}

}  // namespace

double NumberSummary::size() const {
  return std::max(std::abs(mean), spread);
}

DataSummary summarise(const Dataset& data) {
  DataSummary summary{.name = data.name,
                      .rows = data.rows(),
                      .features = by_column(data.features, data.all_feature_names()),
                      .target = data.target_name()};
  if (data.has_classes()) {
    summary.class_names = data.all_class_names();
    summary.class_sizes = data.class_sizes();
  } else if (!data.targets.empty()) {
    summary.numbers = by_column(data.targets, data.all_target_names());
  }
  return summary;
}

}  // namespace lattice
