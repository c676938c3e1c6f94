#include "lattice/worksheet/watch.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <cmath>

#include "lattice/core.hpp"

namespace lattice {
namespace {

using ::testing::HasSubstr;

TEST(watch, finds_nothing_where_all_numbers_are_finite) {
  Worksheet sheet;
  const Line w = sheet.weight("w", tensor({700, -700}));
  const Line cost = sum(exp(w));
  EXPECT_EQ(watch(sheet), std::nullopt);
  ReverseSweep sweep(cost);
  while (sweep.next()) {
  }
  EXPECT_EQ(watch(sweep), std::nullopt);
}

TEST(watch, names_the_first_line_its_place_and_what_overflows_in_double) {
  Worksheet sheet;
  const Line s = sheet.weight("s", tensor({{1, 1000}, {2, 3}}));
  const Line e = named("e", exp(s));
  const Line p = named("p", e / sum(e, {.axes = {1}, .keep = true}));
  EXPECT_TRUE(std::isnan(p.value().at({0, 1})));
  const std::optional<Alarm> alarm = watch(sheet);
  ASSERT_TRUE(alarm);
  EXPECT_EQ(alarm->line, e);
  EXPECT_EQ(alarm->at, (Index{0, 1}));
  EXPECT_EQ(alarm->part, "exp(s[0,1])");
  EXPECT_EQ(alarm->inputs, "exp(1000)");
  EXPECT_EQ(alarm->text(),
            "e[0,1] is ∞: the first such number, on line 2, exp\n"
            "  there:    exp(s[0,1]) = exp(1000)\n"
            "  cause:    exp overflows above e^709.78 in double precision");
}

TEST(watch, knows_that_single_precision_ends_sooner) {
  Worksheet sheet;
  const Line s = sheet.weight("s", tensor({100}, Precision::single));
  static_cast<void>(named("e", exp(s)));
  const std::optional<Alarm> alarm = watch(sheet);
  ASSERT_TRUE(alarm);
  EXPECT_THAT(alarm->text(), HasSubstr("exp overflows above e^88.723 in single precision"));
}

/// The cause that is named for a calculation from one weight.
std::string cause_of(double weight, Line (*calculate)(const Line&)) {
  Worksheet sheet;
  static_cast<void>(calculate(sheet.weight("w", tensor({weight}))));
  const std::optional<Alarm> alarm = watch(sheet);
  return alarm ? alarm->cause : "none";
}

TEST(watch, tells_the_likely_causes_apart) {
  EXPECT_EQ(cause_of(0, [](const Line& w) { return log(w); }), "log of 0");
  EXPECT_EQ(cause_of(-1, [](const Line& w) { return log(w); }), "log of a negative number");
  EXPECT_EQ(cause_of(-1, [](const Line& w) { return sqrt(w); }), "the root of a negative number");
  EXPECT_EQ(cause_of(0, [](const Line& w) { return 1 / w; }), "division by 0");
  EXPECT_EQ(cause_of(-2, [](const Line& w) { return power(w, 0.5); }),
            "a negative number to a fractional power");
  EXPECT_EQ(cause_of(0, [](const Line& w) { return power(w, -1); }), "0 to a negative power");
  EXPECT_THAT(cause_of(1e200, [](const Line& w) { return square(w); }),
              HasSubstr("have the weights grown? Try a smaller rate"));
  EXPECT_THAT(cause_of(NAN, [](const Line& w) { return 2 * w; }),
              HasSubstr("an update before took it there"));
  EXPECT_EQ(cause_of(1, [](const Line& w) { return 2 * w; }), "none");
}

TEST(watch, finds_a_cause_deep_inside_a_fused_line) {
  Worksheet sheet;
  const Line z = sheet.weight("z", tensor({1e300, 0}));
  const Line y = sheet.given("y", tensor({-1e300, 0}));
  static_cast<void>(named("cost", half_mean_squared(z, y)));
  const std::optional<Alarm> alarm = watch(sheet);
  ASSERT_TRUE(alarm);
  EXPECT_EQ(alarm->part, "(z[0] − y[0])²");
}

TEST(watch, says_when_data_came_like_that) {
  Worksheet sheet;
  static_cast<void>(sheet.given("x", tensor({1, NAN})));
  EXPECT_THAT(watch(sheet)->cause, HasSubstr("check the data"));
}

TEST(watch, finds_gradients_that_break_though_all_values_are_finite) {
  Worksheet sheet;
  const Line w = sheet.weight("w", tensor({4.0, 0.0}));
  const Line root = named("root", sqrt(w));
  const Line cost = named("cost", sum(root));
  EXPECT_EQ(watch(sheet), std::nullopt);
  ReverseSweep sweep(cost);
  while (sweep.next()) {
  }
  const std::optional<Alarm> alarm = watch(sweep);
  ASSERT_TRUE(alarm);
  EXPECT_TRUE(alarm->in_gradient);
  EXPECT_EQ(alarm->line, w);
  EXPECT_EQ(alarm->at, (Index{1}));
  EXPECT_EQ(alarm->cause, "division by 0");
  EXPECT_THAT(alarm->text(), HasSubstr("∂w[1] is ∞: the first such number of the sweep"));
}

}  // namespace
}  // namespace lattice
