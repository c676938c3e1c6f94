#include "lattice/worksheet/operations/losses.hpp"

#include <gtest/gtest.h>

#include <cmath>

#include "lattice/core.hpp"

namespace lattice {
namespace {

TEST(losses, of_counted_rows_are_those_of_the_rows_alone) {
  Random random(3);
  const Tensor z = normal({4, 2}, 0, 1, random);
  const Tensor y = uniform({4, 2}, 0, 1, random);
  const Tensor mask = tensor({1, 0, 0, 1});
  const std::vector<std::int64_t> kept{0, 3};
  const Tensor classes = tensor({1, 0, 1, 0});
  EXPECT_NEAR(mean_squared(z, y, {.row_weights = mask}).number(),
              mean_squared(z.rows(kept), y.rows(kept)).number(), 1e-15);
  EXPECT_NEAR(half_mean_squared(z, y, {.row_weights = mask}).number(),
              half_mean_squared(z.rows(kept), y.rows(kept)).number(), 1e-15);
  EXPECT_NEAR(binary_cross_entropy(z, y, {.row_weights = mask}).number(),
              binary_cross_entropy(z.rows(kept), y.rows(kept)).number(), 1e-15);
  EXPECT_NEAR(cross_entropy(z, classes, {.row_weights = mask}).number(),
              cross_entropy(z.rows(kept), classes.rows(kept)).number(), 1e-15);
  EXPECT_NEAR(cross_entropy(z, one_hot(classes, 2)).number(), cross_entropy(z, classes).number(),
              1e-15);
  EXPECT_NEAR(cross_entropy(zeros({3, 8}), tensor({0, 5, 7})).number(), std::log(8.0), 1e-15);
}

TEST(losses, refuse_what_cannot_be_judged) {
  const Tensor z = zeros({3, 2});
  const auto two_of = [](const Tensor& scores, const Tensor& truth,
                         const std::optional<Tensor>& counted = std::nullopt) {
    static_cast<void>(cross_entropy(scores, truth, {.row_weights = counted}));
  };
  EXPECT_THROW(two_of(z, zeros({2})), ShapeError);
  EXPECT_THROW(two_of(zeros({3}), zeros({3})), ShapeError);
  EXPECT_THROW(two_of(z, zeros({3}), zeros({2})), ShapeError);
  EXPECT_THROW(two_of(z, zeros({3}), zeros({3})), NumberError) << "no row counts";
  EXPECT_THROW(two_of(z, zeros({3}), tensor({1, -1, 1})), NumberError);
  EXPECT_THROW(static_cast<void>(mean_squared(z, z, {.row_weights = tensor({1, NAN, 1})})),
               NumberError);
  EXPECT_THROW(
      static_cast<void>(mean_squared(tensor(1.0), tensor(1.0), {.row_weights = tensor({1})})),
      ShapeError);
  EXPECT_THROW(static_cast<void>(l2_term(z, -0.1)), SettingError);
  try {
    static_cast<void>(binary_cross_entropy(zeros({2}), tensor({1, -1})));
    FAIL();
  } catch (const NumberError& error) {
    EXPECT_NE(error.trouble().remedy.find("0.5 * (labels + 1)"), std::string::npos);
  }
  EXPECT_THROW(static_cast<void>(
                   binary_cross_entropy(zeros({2}), tensor({1, 7}), {.form = Form::written_out})),
               NumberError);
}

/// What a loss is where a row is sure and right: a number far below 1, to its last digits.
void expect_digits(const Line& loss, double expected, const std::string& where) {
  const bool is_double = loss.value().precision() == Precision::double_;
  const double within = (is_double ? 1e-14 : 1e-6) * expected;
  EXPECT_NEAR(loss.value().number(), expected, within) << where;
  const Formula formula = explain(loss, {}).formula;
  EXPECT_NEAR(formula.evaluate(loss.value().precision()), expected, within) << where;
  EXPECT_NEAR(formula.evaluate(), expected, within) << where;
}

TEST(losses, keep_their_digits_where_the_answer_is_sure_and_right) {
  for (const Precision precision : {Precision::double_, Precision::single}) {
    for (const double score : {0.5, 10.0, 30.0, 36.0, 60.0, 80.0}) {
      const double expected = std::log1p(std::exp(-score));
      const std::string where = fmt::format("{} in {}", score, word(precision));
      Worksheet sheet;
      const auto given = [&](const Tensor& numbers) {
        return sheet.given("x", numbers.in(precision));
      };
      const Line one = given(tensor({score}));
      expect_digits(binary_cross_entropy(one, given(tensor({1}))), expected, where);
      expect_digits(binary_cross_entropy(-one, given(tensor({0}))), expected, where);
      // 40 is where numbers in single precision are 4e-6 apart, in double 7e-15.
      const Line two = given(tensor({{40.0 + score, 40.0}}));
      expect_digits(cross_entropy(two, given(tensor({0}))), expected, where);
      expect_digits(cross_entropy(two, given(tensor({{1, 0}}))), expected, where);
      expect_digits(sum(-log_softmax(two) * given(tensor({{1, 0}}))), expected, where);
    }
  }
  // Of rows that are alike for two classes, and of many.
  EXPECT_NEAR(cross_entropy(tensor({{7, 7, -90}}), tensor({1})).number(), std::log(2.0), 1e-15);
  EXPECT_NEAR(log_sum_exp(tensor({-50, 0}), {}).number(), std::exp(-50.0), 1e-36);
}

TEST(losses, write_their_slopes_in_symbols) {
  Worksheet sheet;
  const Line z = sheet.weight("z", tensor({{1}, {2}}));
  const Line y = sheet.weight("y", tensor({{0}, {1}}));
  const Line counted = sheet.given("counted", tensor({1, 3}));
  const Line half = named("half", half_mean_squared(z, y));
  EXPECT_EQ(half.symbols(), "0.5 × mean((z − y)²)");
  EXPECT_EQ(half.reverse_symbols(0), "∂half/2 × (z − y)");
  EXPECT_EQ(half.reverse_symbols(1), "∂half/2 × (y − z)");
  const Line mean = named("mean", mean_squared(z, y, {.row_weights = counted}));
  EXPECT_EQ(mean.symbols(), "mean((z − y)²; weighted by counted)");
  EXPECT_EQ(mean.reverse_symbols(1), "∂mean × counted/sum(counted) × 2 × (y − z)");
  const Line cross = named("cross", binary_cross_entropy(z, y));
  EXPECT_EQ(cross.symbols(), "mean(softplus(z) − z × y)");
  EXPECT_EQ(cross.reverse_symbols(0), "∂cross/2 × (sigmoid(z) − y)");
  EXPECT_EQ(cross.reverse_symbols(1), "∂cross/2 × (−z)");
}

}  // namespace
}  // namespace lattice
