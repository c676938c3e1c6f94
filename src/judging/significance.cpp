#include "lattice/judging/significance.hpp"

#include <fmt/format.h>

#include <array>
#include <cmath>
#include <numeric>
#include <vector>

#include "lattice/text/error.hpp"

namespace lattice {
namespace {

/// How many standard errors a mean is from 0 at most, in 95 of 100 cases, by degrees of freedom
/// from 1 on.
constexpr std::array<double, 30> student = {
    12.7062, 4.3027, 3.1824, 2.7764, 2.5706, 2.4469, 2.3646, 2.3060, 2.2622, 2.2281,
    2.2010,  2.1788, 2.1604, 2.1448, 2.1314, 2.1199, 2.1098, 2.1009, 2.0930, 2.0860,
    2.0796,  2.0739, 2.0687, 2.0639, 2.0595, 2.0555, 2.0518, 2.0484, 2.0452, 2.0423};

double standard_errors(std::int64_t freedom) {
  if (freedom <= std::ssize(student)) return student.at(static_cast<std::size_t>(freedom - 1));
  // The first terms of its expansion around the bell curve (Fisher, 1926).
  constexpr double bell = 1.95996;
  constexpr double next = 2.37227;
  constexpr double third = 2.82250;
  const double share = 1.0 / static_cast<double>(freedom);
  return bell + share * (next + share * third);
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
    throw SettingError({.what = "these runs cannot be set side by side",
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
