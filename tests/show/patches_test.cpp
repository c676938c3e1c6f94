#include "lattice/worksheet/patches.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include "lattice/lattice.hpp"
#include "lattice/show/terminal.hpp"

namespace lattice {
namespace {

using ::testing::AllOf;
using ::testing::HasSubstr;

TEST(show_patches, puts_them_side_by_side_and_large_ones_in_a_row) {
  Worksheet sheet;
  Random random(2);
  const Line x =
      sheet.weight("x", normal(Shape{1, 5, 6, 2}, 0, 1, random)
                            .with({Role::example, Role::row, Role::column, Role::channel}));
  const Line kernel = sheet.weight("K", normal({3, 2, 2, 2}, 0, 1, random));
  const Line z = named("z", convolution(x, kernel, {.stride = 2, .padding = Padding::of(1)}));
  std::vector<Patch> patches = patches_of(explain(z, {0, 1, 1, 1}).formula, sheet);
  EXPECT_THAT(show_patches(patches, {}),
              AllOf(HasSubstr("x, example 0, channel 1 × K, channel 1, channel 1: "),
                    HasSubstr("rows 1 to 3, columns 1 to 2"), HasSubstr("products")));
  patches.resize(1);
  patches[0].numbers = zeros({8, 8});
  EXPECT_THAT(show_patches(patches, {}), HasSubstr("64 places"));
  EXPECT_EQ(show_patches({}, {}), "");

  ReverseSweep sweep(named("cost", sum(square(z))));
  while (sweep.next()) {
  }
  const Explanation to_picture = explain_gradient(sweep, x, {0, 3, 3, 0});
  EXPECT_THAT(show_patches(patches_of(to_picture.formula, sheet), {}),
              HasSubstr("K, rotated by 180°"));
}

}  // namespace
}  // namespace lattice
