#include "lattice/data/summary.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>

namespace lattice {
namespace {

/// Summaries of the numbers at each of some places: the numbers of rows belong to the first, the
/// second, … and to the first again.
std::vector<NumberSummary> by_place(const Examples& table, std::span<const std::int64_t> rows,
                                    const std::vector<std::string>& names) {
  std::vector<NumberSummary> summaries(names.size());
  for (std::size_t at = 0; at < names.size(); ++at)
    summaries[at].name = names[at];
  const std::int64_t width = table.count() / table.shape()[0];
  const auto places = std::ssize(names);
  std::vector<double> numbers(static_cast<std::size_t>(width));
  const auto each = [&](auto meet) {
    for (const std::int64_t row : rows) {
      table.copy_numbers(row, numbers);
      for (std::size_t place = 0; place < summaries.size(); ++place) {
        for (std::size_t at = place; at < numbers.size(); at += summaries.size())
          meet(summaries[place], numbers[at]);
      }
    }
  };
  const double count =
      static_cast<double>(rows.size()) * static_cast<double>(width) / static_cast<double>(places);
  for (NumberSummary& summary : summaries) {
    summary.low = std::numeric_limits<double>::infinity();
    summary.high = -summary.low;
  }
  each([](NumberSummary& summary, double number) {
    summary.low = std::min(summary.low, number);
    summary.high = std::max(summary.high, number);
    summary.mean += number;
  });
  for (NumberSummary& summary : summaries)
    summary.mean /= count;
  each([](NumberSummary& summary, double number) {
    summary.standard_deviation += (number - summary.mean) * (number - summary.mean);
  });
  for (NumberSummary& summary : summaries)
    summary.standard_deviation = std::sqrt(summary.standard_deviation / count);
  return summaries;
}

/// What the places of an example are called that are summed up by themselves.
std::vector<std::string> names_of_places(const Dataset& data) {
  if (data.is_table()) return data.all_feature_names();
  const Shape example = data.example();
  const int last = example.rank() - 1;
  if (example.role(last) != Role::channel) return {"all numbers"};
  std::vector<std::string> names;
  for (std::int64_t channel = 0; channel < example[last]; ++channel)
    names.push_back(fmt::format("channel {}", channel));
  return names;
}

}  // namespace

double NumberSummary::size() const {
  return std::max(std::abs(mean), standard_deviation);
}

DataSummary summarise(const RowSet& rows) {
  const Dataset& data = rows.data();
  const std::vector<std::int64_t> sorted = rows.sorted_rows();
  DataSummary summary{.name = data.name,
                      .rows = rows.count(),
                      .features = data.has_own_features()
                                      ? std::vector<NumberSummary>()
                                      : by_place(data.features, sorted, names_of_places(data)),
                      .target = data.target_name()};
  if (const Tensor* const row_weights = find_side(data.side, row_weights_name))
    summary.row_weights = by_place(*row_weights, sorted, {std::string(row_weights_name)}).front();
  if (data.has_classes()) {
    summary.class_names = data.all_class_names();
    summary.class_sizes = rows.class_sizes();
  } else if (!data.targets.empty()) {
    std::vector<std::int64_t> with_truth = sorted;
    std::erase_if(with_truth, [&](std::int64_t row) { return !data.has_truth(row); });
    summary.numbers = by_place(data.targets, with_truth, data.all_target_names());
  }
  return summary;
}

}  // namespace lattice
