#include "lattice/judging/significance.hpp"

#include <fmt/format.h>

#include <boost/math/distributions/students_t.hpp>
#include <cmath>
#include <numeric>
#include <vector>

#include "lattice/text/error.hpp"

namespace lattice {
namespace {

/// How many standard errors a mean is from 0 at most, in 95 of 100 cases (Student, 1908).
double standard_errors(std::int64_t degrees_of_freedom) {
  constexpr double outside = 0.05;
  const boost::math::students_t distribution(static_cast<double>(degrees_of_freedom));
  return boost::math::quantile(boost::math::complement(distribution, outside / 2));
}

}  // namespace

OverRuns over_runs(std::span<const double> figures) {
  if (figures.empty()) {
    throw SettingError({.what = "there is no figure to average",
                        .expected = "one figure or more",
                        .found = "none"});
  }
  const auto count = static_cast<double>(figures.size());
  const double mean = std::accumulate(figures.begin(), figures.end(), 0.0) / count;
  double squares = 0.0;
  for (const double figure : figures)
    squares += (figure - mean) * (figure - mean);
  return {.mean = mean,
          .deviation = figures.size() > 1 ? std::sqrt(squares / (count - 1.0)) : 0.0,
          .count = std::ssize(figures)};
}

Difference difference_of(std::span<const double> first, std::span<const double> second) {
  if (first.size() != second.size() || first.size() < 2) {
    throw SettingError({.what = "these runs cannot be compared",
                        .expected = "two runs or more of each, as many of the one as of the other",
                        .found = fmt::format("{} and {}", first.size(), second.size())});
  }
  std::vector<double> differences(first.size());
  for (std::size_t run = 0; run < first.size(); ++run)
    differences[run] = second[run] - first[run];
  Difference result{.difference = over_runs(differences)};
  const OverRuns& difference = result.difference;
  result.margin = standard_errors(difference.count - 1) * difference.deviation /
                  std::sqrt(static_cast<double>(difference.count));
  result.is_significant = std::abs(difference.mean) > result.margin;
  return result;
}

}  // namespace lattice
