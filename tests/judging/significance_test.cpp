#include "lattice/judging/significance.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <cmath>
#include <numbers>
#include <vector>

#include "lattice/core.hpp"
#include "support/said.hpp"

namespace lattice {
namespace {

using ::testing::HasSubstr;

TEST(spread, is_mean_and_deviation_over_one_less) {
  const OverRuns spread = over_runs(std::vector<double>{2, 4, 4, 6});
  EXPECT_EQ(spread.mean, 4.0);
  EXPECT_DOUBLE_EQ(spread.deviation, std::sqrt(8.0 / 3.0));
  EXPECT_EQ(spread.count, 4);
  EXPECT_EQ(over_runs(std::vector<double>{7}).deviation, 0.0);
  EXPECT_THROW(static_cast<void>(over_runs({})), SettingError);
}

// Worked by hand: differences 1, 2, 3, so mean 2, deviation 1, and t for 2 degrees of freedom
// 4.30265272991.
TEST(apart, weighs_the_mean_difference_against_what_luck_gives) {
  const std::vector<double> first = {1, 5, 2};
  const Difference result = difference_of(first, std::vector<double>{2, 7, 5});
  EXPECT_DOUBLE_EQ(result.difference.mean, 2.0);
  EXPECT_NEAR(result.margin, 4.30265272991 / std::sqrt(3.0), 1e-9);
  EXPECT_FALSE(result.is_significant);
  EXPECT_TRUE(difference_of(first, std::vector<double>{3, 7.1, 4.05}).is_significant);
  EXPECT_FALSE(difference_of(first, first).is_significant);
  EXPECT_THAT(testing::said<SettingError>([&] {
                static_cast<void>(difference_of(first, std::vector<double>{1, 2}));
              }),
              HasSubstr("3 and 2"));
  EXPECT_THROW(static_cast<void>(difference_of(std::vector<double>{1}, std::vector<double>{2})),
               SettingError);
}

// Of settings that differ by luck alone about one in twenty stands out, however many runs.
TEST(apart, takes_luck_for_skill_in_one_of_twenty_cases) {
  for (const int runs : {2, 5, 31, 80}) {
    Random random(static_cast<std::uint64_t>(runs));
    int stood_out = 0;
    constexpr int trials = 4000;
    for (int trial = 0; trial < trials; ++trial) {
      std::vector<double> first;
      std::vector<double> second;
      for (int run = 0; run < runs; ++run) {
        const double rows = random.normal(0.0, 5.0);
        first.push_back(rows + random.normal());
        second.push_back(rows + random.normal());
      }
      stood_out += difference_of(first, second).is_significant ? 1 : 0;
    }
    EXPECT_NEAR(stood_out / double{trials}, 0.05, 0.015) << runs;
  }
}

/// How likely a number of Student's distribution is to lie within ±t: its density summed up in
/// small steps (Simpson's rule).
double within(double t, double freedom) {
  const double log_factor = std::lgamma((freedom + 1.0) / 2.0) - std::lgamma(freedom / 2.0) -
                            0.5 * std::log(freedom * std::numbers::pi);
  const auto density = [&](double x) {
    return std::exp(log_factor - (freedom + 1.0) / 2.0 * std::log1p(x * x / freedom));
  };
  constexpr int steps = 2000;
  const double step = t / steps;
  double sum = density(0.0) + density(t);
  for (int at = 1; at < steps; ++at)
    sum += (at % 2 == 1 ? 4.0 : 2.0) * density(at * step);
  return 2.0 * sum * step / 3.0;
}

TEST(apart, takes_what_luck_gives_in_95_of_100_cases_for_any_number_of_runs) {
  for (std::size_t runs = 2; runs <= 200; ++runs) {
    const std::vector<double> first(runs, 0.0);
    std::vector<double> second(runs);
    for (std::size_t run = 0; run < runs; ++run)
      second[run] = run % 2 == 0 ? 1.0 : 3.0;
    const Difference result = difference_of(first, second);
    const double t =
        result.margin / result.difference.deviation * std::sqrt(static_cast<double>(runs));
    EXPECT_NEAR(within(t, static_cast<double>(runs - 1)), 0.95, 5e-5) << runs;
  }
}

}  // namespace
}  // namespace lattice
