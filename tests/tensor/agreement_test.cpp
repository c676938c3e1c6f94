#include "lattice/tensor/agreement.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <cmath>

#include "lattice/text/error.hpp"

namespace lattice {
namespace {

using ::testing::HasSubstr;

const Tensor engine = tensor({{0.5, -2.0}, {0.0, 8.0}});

Tensor scaled(double factor) {
  Tensor result = engine;
  for (const Index& at : {Index{0, 0}, Index{0, 1}, Index{1, 0}, Index{1, 1}})
    result.set(at, factor * engine.at(at));
  return result;
}

TEST(agreement, holds_for_the_same_numbers_and_for_rounding) {
  EXPECT_TRUE(agreement(engine, engine).agrees);
  EXPECT_EQ(agreement(engine, engine).error, 0.0);
  Tensor rounded = engine;
  rounded.set({0, 1}, -2.0 + 1e-12);
  EXPECT_TRUE(agreement(rounded, engine).agrees);
  EXPECT_FALSE(agreement(rounded, engine, 1e-14).agrees);
  EXPECT_TRUE(agreement(engine.in(Precision::single), scaled(1.00001)).agrees);
}

TEST(agreement, names_the_worst_place_and_both_numbers) {
  Tensor wrong = engine;
  wrong.set({1, 0}, 0.1);
  wrong.set({1, 1}, 6.0);
  const Agreement answer = agreement(wrong, engine);
  EXPECT_FALSE(answer.agrees);
  EXPECT_EQ(answer.worst, (Index{1, 1}));
  EXPECT_EQ(answer.hand, 6.0);
  EXPECT_EQ(answer.engine, 8.0);
  EXPECT_EQ(answer.error, 0.25);
  EXPECT_THAT(answer.text(), HasSubstr("differ: at [1,1] 6 by hand, 8 by the engine"));
  EXPECT_EQ(answer.hint, "");
}

TEST(agreement, says_what_a_difference_looks_like) {
  EXPECT_THAT(agreement(scaled(4.0), engine).hint, HasSubstr("4 times the engine's"));
  EXPECT_THAT(agreement(scaled(0.125), engine).hint, HasSubstr("1/8 of the engine's"));
  EXPECT_THAT(agreement(scaled(-1.0), engine).hint, HasSubstr("the other sign"));
  EXPECT_THAT(agreement(scaled(0.0), engine).hint, HasSubstr("every number is 0"));
}

TEST(agreement, shows_all_digits_where_fewer_look_alike) {
  Tensor close = engine;
  close.set({1, 1}, 8.0000001);
  EXPECT_THAT(agreement(close, engine).text(), HasSubstr("8.0000001"));
}

TEST(agreement, never_holds_with_NaN_on_one_side) {
  Tensor wrong = engine;
  wrong.set({0, 0}, std::nan(""));
  EXPECT_FALSE(agreement(wrong, engine).agrees);
  EXPECT_EQ(agreement(wrong, engine).worst, (Index{0, 0}));
}

TEST(agreement, refuses_other_shapes_and_notices_a_turned_one) {
  try {
    static_cast<void>(agreement(zeros({3, 2}), zeros({2, 3})));
    FAIL();
  } catch (const ShapeError& error) {
    EXPECT_THAT(error.trouble().remedy, HasSubstr("transposed"));
  }
  EXPECT_THROW(static_cast<void>(agreement(zeros({3}), zeros({2}))), ShapeError);
}

}  // namespace
}  // namespace lattice
