#include <gtest/gtest.h>

#include "lattice/lattice.hpp"

// What a careless student does with pictures and graphs is refused with what is wrong.
namespace lattice {
namespace {

TEST(misuses_of_pictures, are_refused) {
  EXPECT_THROW(static_cast<void>(Network(Shape{4, 4, 1}, "conv 1 of 0x3", Random(1))),
               SettingError);
  EXPECT_THROW(static_cast<void>(convolution(ones({1, 2, 2, 1}), ones({3, 3, 1, 1}))), ShapeError);
  EXPECT_THROW(static_cast<void>(convolution(ones({1, 4, 4, 2}), ones({3, 3, 1, 1}))), ShapeError);
  EXPECT_THROW(
      static_cast<void>(convolution(ones({1, 4, 4, 1}), ones({2, 2, 1, 1}), {.stride = 0})),
      SettingError);
  EXPECT_THROW(static_cast<void>(parse_augmentation("shift x")), SettingError);
  constexpr std::int64_t far_too_many = std::int64_t{1} << 50;
  EXPECT_THROW(static_cast<void>(demo_set("tiles", far_too_many, 1)), MemoryError);
}

TEST(misuses_of_graphs, are_refused) {
  EXPECT_THROW(static_cast<void>(with_loops(ones({2, 3}))), ShapeError);
  EXPECT_THROW(static_cast<void>(Network(Shape{2}, "neighbours, dense 2", Random(1))(ones({3, 2}))),
               NameError);
  EXPECT_THROW(static_cast<void>(graph_of(
                   dataset_of_classes(each_its_own(2), tensor({0, 1}), {.name = "x"}), {{0, 2}})),
               IndexError);
}

}  // namespace
}  // namespace lattice
