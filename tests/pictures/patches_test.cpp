#include "lattice/worksheet/patches.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include "lattice/lattice.hpp"

namespace lattice {
namespace {

using ::testing::ElementsAre;
using ::testing::IsEmpty;

/// A picture of two channels under a kernel, and the sweep from the sum of squares.
struct Looked {
  Looked() {
    Random random(2);
    x = sheet.weight("x", normal(Shape{1, 5, 6, 2}, 0, 1, random)
                              .with({Role::example, Role::row, Role::column, Role::channel}));
    kernel = sheet.weight("K", normal({3, 2, 2, 2}, 0, 1, random));
    z = named("z", convolution(x, kernel, {.stride = 2, .padding = Padding::of(1)}));
    cost = named("cost", 0.5 * sum(square(z)));
  }

  Worksheet sheet;
  Line x;
  Line kernel;
  Line z;
  Line cost;
};

double sum_of(const std::vector<Patch>& patches) {
  double sum = 0.0;
  for (const Patch& patch : patches)
    sum += patch.sum;
  return sum;
}

TEST(patches, are_what_a_window_meets_in_each_channel) {
  Looked looked;
  const Explanation inside = explain(looked.z, {0, 1, 1, 1});
  const std::vector<Patch> patches = patches_of(inside.formula, looked.sheet);
  ASSERT_EQ(patches.size(), 2U);
  EXPECT_THAT(patches[1].rows, ElementsAre(1, 2, 3));
  EXPECT_THAT(patches[1].columns, ElementsAre(1, 2));
  EXPECT_EQ(patches[1].of_met, "example 0, channel 1");
  EXPECT_EQ(patches[1].numbers.at({2, 0}), looked.x.value().at({0, 3, 1, 1}));
  EXPECT_EQ(patches[1].factors.at({2, 0}), looked.kernel.value().at({2, 0, 1, 1}));
  EXPECT_FALSE(patches[1].is_turned);
  EXPECT_NEAR(sum_of(patches), inside.value, 1e-12);

  // At the border only what is on the picture.
  const Explanation corner = explain(looked.z, {0, 0, 0, 0});
  EXPECT_THAT(patches_of(corner.formula, looked.sheet)[0].rows, ElementsAre(0, 1));
  EXPECT_THAT(patches_of(corner.formula, looked.sheet)[0].columns, ElementsAre(0));
}

TEST(patches, on_the_way_back_have_the_kernel_turned_by_half) {
  Worksheet sheet;
  Random random(3);
  const Line x = sheet.weight("x", normal({1, 6, 6, 1}, 0, 1, random));
  const Line kernel = sheet.weight("K", normal({3, 3, 1, 1}, 0, 1, random));
  const Line z = named("z", convolution(x, kernel));
  for (int axis = 0; axis < 4; ++axis)
    labelled(axis,
             std::array{Role::example, Role::row, Role::column, Role::channel}.at(
                 static_cast<std::size_t>(axis)),
             x);
  ReverseSweep sweep(named("cost", sum(square(z))));
  while (sweep.next()) {
  }
  const Explanation to_picture = explain_gradient(sweep, x, {0, 3, 3, 0});
  const std::vector<Patch> patches = patches_of(to_picture.formula, sheet);
  ASSERT_EQ(patches.size(), 1U);
  EXPECT_EQ(patches[0].met, "∂z");
  EXPECT_TRUE(patches[0].is_turned);
  EXPECT_EQ(patches[0].factors.at({0, 0}), kernel.value().at({2, 2, 0, 0}));
  const Explanation to_kernel = explain_gradient(sweep, kernel, {0, 1, 0, 0});
  const std::vector<Patch> of_kernel = patches_of(to_kernel.formula, sheet);
  EXPECT_FALSE(of_kernel[0].is_turned);
  EXPECT_NEAR(sum_of(of_kernel), to_kernel.value, 1e-12);
}

TEST(patches, are_none_where_nothing_lies_on_a_picture) {
  Worksheet sheet;
  const Line x = sheet.given("x", tensor({{1, 2}, {3, 4}}));
  const Line z = named("z", matmul(x, sheet.weight("W", tensor({{1}, {2}}))));
  EXPECT_THAT(patches_of(explain(z, {1, 0}).formula, sheet), IsEmpty());
}

}  // namespace
}  // namespace lattice
