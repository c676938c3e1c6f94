#include "lattice/worksheet/curve.hpp"

#include <gtest/gtest.h>

#include <cmath>

#include "lattice/core.hpp"

namespace lattice {
namespace {

TEST(curve, has_values_and_slopes_of_an_activation) {
  const Curve bend = curve([](const Line& x) { return tanh(x); }, -2, 2, 41);
  EXPECT_EQ(bend.x.at({0}), -2);
  EXPECT_EQ(bend.x.at({40}), 2);
  for (std::int64_t i = 0; i < 41; ++i) {
    const double value = std::tanh(bend.x.at({i}));
    EXPECT_NEAR(bend.value.at({i}), value, 1e-15);
    EXPECT_NEAR(bend.slope.at({i}), 1 - value * value, 1e-15);
  }
}

TEST(curve, works_for_an_operation_of_ones_own_and_for_several_lines) {
  const auto cube = own_operation(
      "cube", [](auto x) { return x * x * x; }, [](auto x) { return 3 * x * x; });
  const Curve curved = curve([&](const Line& x) { return 2 * cube(x) + 1; }, 0, 1, 3);
  EXPECT_EQ(curved.value.numbers(), (std::vector<double>{1, 1.25, 3}));
  EXPECT_EQ(curved.slope.numbers(), (std::vector<double>{0, 1.5, 6}));
}

TEST(curve, refuses_what_is_no_function_of_each_number_by_itself) {
  EXPECT_THROW(static_cast<void>(curve([](const Line& x) { return sum(x); }, 0, 1, 3)), ShapeError);
  EXPECT_THROW(static_cast<void>(curve([](const Line& x) { return tanh(x); }, 0, 1, 0)),
               ShapeError);
}

}  // namespace
}  // namespace lattice
