#include "lattice/tensor/shape.hpp"

#include <gtest/gtest.h>

#include "lattice/text/error.hpp"

namespace lattice {
namespace {

TEST(shape, says_what_its_axes_stand_for) {
  EXPECT_EQ(to_string(Shape{16, 3}.with({Role::example, Role::feature})),
            "[example 16 × feature 3]");
  EXPECT_EQ(to_string(Shape{16, 3}), "[16 × 3]");
  EXPECT_EQ(to_string(Shape{}), "[one number]");
  EXPECT_EQ(to_string(Shape{2, 3, 4}.with({Role::none, Role::class_, Role::node})),
            "[2 × class 3 × node 4]");
  EXPECT_THROW(static_cast<void>(Shape{2}.with({})), ShapeError);
}

TEST(shape, is_the_same_whatever_its_axes_stand_for) {
  EXPECT_EQ((Shape{2, 3}), (Shape{2, 3}.with({Role::row, Role::column})));
  EXPECT_FALSE((Shape{2, 3}) == (Shape{3, 2}));
  EXPECT_FALSE((Shape{2}) == (Shape{2, 1}));
}

TEST(shape, refuses_extents_without_room_and_counts_beyond_counting) {
  EXPECT_THROW(static_cast<void>(Shape{2, 0}), ShapeError);
  EXPECT_THROW(static_cast<void>(Shape{-1}), ShapeError);
  EXPECT_THROW(static_cast<void>(Shape{1, 1, 1, 1, 1, 1, 1}), ShapeError);
  EXPECT_THROW(static_cast<void>(Shape{3'000'000'000}), ShapeError);
  EXPECT_THROW(static_cast<void>(Shape{1 << 30, 1 << 30, 1 << 30}), ShapeError);
  EXPECT_THROW(static_cast<void>(Shape{2}.with_extent(0, 0)), ShapeError);
}

TEST(shape, turns_an_index_into_an_offset_and_back) {
  const Shape shape{2, 3, 4};
  for (std::int64_t offset = 0; offset < shape.count(); ++offset) {
    EXPECT_EQ(shape.offset(shape.index(offset)), offset);
  }
  EXPECT_EQ(shape.offset({1, 2, 3}), 23);
  EXPECT_EQ(Shape{}.offset({}), 0);
}

TEST(shape, names_the_axis_on_which_an_index_is_outside) {
  try {
    static_cast<void>(Shape{16, 3}.with({Role::example, Role::feature}).offset({2, 3}));
    FAIL();
  } catch (const IndexError& error) {
    EXPECT_EQ(error.trouble().where, "axis 1, feature");
    EXPECT_EQ(error.trouble().expected, "0 to 2");
    EXPECT_EQ(error.trouble().found, "3");
  }
}

TEST(shape, stretches_to_another) {
  EXPECT_EQ(broadcast({2, 1, 3}, {4, 1}), (Shape{2, 4, 3}));
  EXPECT_EQ(broadcast({}, {2}), (Shape{2}));
  EXPECT_EQ(broadcast({1}, {}), (Shape{1}));
  EXPECT_THROW(static_cast<void>(broadcast({2}, {3})), ShapeError);
  const Shape x = Shape{5, 2}.with({Role::example, Role::none});
  EXPECT_EQ(to_string(broadcast(x, Shape{2}.with({Role::unit}))), "[example 5 × unit 2]");
  EXPECT_EQ(before_broadcast({2, 1}, {7, 1, 3}), (Index{1, 0}));
}

TEST(index, is_written_in_brackets) {
  EXPECT_EQ(to_string(Index{4, 0}), "[4,0]");
  EXPECT_EQ(to_string(Index{}), "");
}

TEST(broadcast, says_which_axes_do_not_fit_and_what_may_have_been_meant) {
  try {
    static_cast<void>(broadcast(Shape{16, 3}.with({Role::example, Role::feature}), Shape{16}));
    FAIL();
  } catch (const ShapeError& error) {
    EXPECT_EQ(error.trouble().where, "axis 1 of the first, axis 0 of the second");
    EXPECT_EQ(error.trouble().found, "3 features and 16 numbers");
    EXPECT_EQ(error.trouble().remedy,
              "to have one for each row, shape the second as a column, [16 × 1]");
  }
}

TEST(shape, has_no_axis_behind_its_last) {
  const Shape shape{2, 3};
  for (const int axis : {-1, 2, 3, 5, 6, 7, 1000}) {
    EXPECT_THROW(static_cast<void>(shape[axis]), IndexError) << axis;
    EXPECT_THROW(static_cast<void>(shape.role(axis)), IndexError) << axis;
    EXPECT_THROW(static_cast<void>(shape.with_extent(axis, 1)), IndexError) << axis;
    EXPECT_THROW(Shape(shape).set_role(axis, Role::class_), IndexError) << axis;
    EXPECT_THROW(static_cast<void>(Index({1, 2})[axis]), IndexError) << axis;
  }
  EXPECT_THROW(static_cast<void>(Shape{}[0]), IndexError);
  try {
    static_cast<void>(shape[7]);
    FAIL();
  } catch (const IndexError& error) {
    EXPECT_EQ(error.trouble().what, "[2 × 3] has no axis 7");
    EXPECT_EQ(error.trouble().expected, "an axis from 0 to 1");
  }
}

}  // namespace
}  // namespace lattice
