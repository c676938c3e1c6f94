#include "lattice/worksheet/gradient_check.hpp"

#include <gtest/gtest.h>

#include <limits>

#include "lattice/core.hpp"

namespace lattice {
namespace {

/// A small network with everything in it that a check meets: fan-out, a frozen weight, data.
struct SmallNetwork {
  Worksheet sheet;
  Line cost;

  explicit SmallNetwork(Precision precision = Precision::double_) {
    Random random(5);
    const auto draw = [&](const Shape& shape) { return normal(shape, 0, 1, random, precision); };
    const Line x = sheet.given("x", draw({6, 3}));
    const Line W = sheet.weight("W", draw({3, 4}));
    const Line b = sheet.weight("b", draw({4}));
    const Line V = sheet.frozen("V", draw({4, 3}));
    const Line h = tanh(dense(x, W, b));
    const Line z = matmul(h, V) + 0.1 * sum(square(W));
    cost = named("cost",
                 cross_entropy(z, sheet.given("classes", tensor({0, 1, 2, 2, 1, 0}, precision))));
  }
};

TEST(gradient_check, agrees_with_the_engine_weight_by_weight) {
  const SmallNetwork network;
  const GradientCheck check = check_gradients(network.cost);
  EXPECT_TRUE(check.agrees());
  ASSERT_EQ(check.weights.size(), 2U);
  EXPECT_EQ(check.weights[0].name, "W");
  EXPECT_EQ(check.weights[0].checked, 12);
  EXPECT_LT(check.weights[0].error, 1e-8);
  EXPECT_EQ(check.weights[1].name, "b");
}

TEST(gradient_check, works_in_double_on_a_worksheet_in_single_precision) {
  const SmallNetwork network(Precision::single);
  const GradientCheck check = check_gradients(network.cost);
  EXPECT_TRUE(check.agrees());
  EXPECT_EQ(check.settings.tolerance, 1e-3);
  EXPECT_GT(check.weights[0].error, 0.0);
  EXPECT_LT(check.weights[0].error, 1e-5);
}

TEST(gradient_check, catches_a_derivative_that_is_wrong_and_says_where) {
  const auto bent = own_operation(
      "bent", [](auto x) { return x * x * x; }, [](auto x) { return x * x; });
  Worksheet sheet;
  const Line w = sheet.weight("w", tensor({0.5, 2.0, 0.0}));
  const GradientCheck check = check_gradients(sum(bent(w)));
  EXPECT_FALSE(check.agrees());
  ASSERT_EQ(check.weights.size(), 1U);
  EXPECT_FALSE(check.weights[0].agrees);
  EXPECT_NEAR(check.weights[0].error, 2.0 / 3.0, 1e-6);
  EXPECT_NEAR(check.weights[0].difference, 3.0 * check.weights[0].engine, 1e-6);
}

TEST(gradient_check, catches_a_wrong_derivative_only_in_the_weight_that_has_it) {
  const auto off = own_operation(
      "off", [](auto x) { return 2 * x; }, [](auto x) { return 2 + 0.001 * x; });
  Worksheet sheet;
  const Line good = sheet.weight("good", tensor({1, 2}));
  const Line bad = sheet.weight("bad", tensor({3, 4}));
  const GradientCheck check = check_gradients(sum(square(good)) + sum(off(bad)));
  EXPECT_TRUE(check.weights[0].agrees);
  EXPECT_FALSE(check.weights[1].agrees);
  EXPECT_EQ(check.weights[1].worst, (Index{1}));
}

TEST(gradient_check, moves_a_weight_by_its_name_wherever_that_stands) {
  // A copy that was given gets no gradient, and yet the result changes with what it was copied
  // from.
  Worksheet sheet;
  const Line w = sheet.weight("w", tensor({3}));
  const Line copy = sheet.given("w", tensor({3}).with({Role::unit}));
  const GradientCheck check = check_gradients(sum(w * copy));
  EXPECT_FALSE(check.agrees());
  EXPECT_NEAR(check.weights.at(0).engine, 3, 1e-9);
  EXPECT_NEAR(check.weights.at(0).difference, 6, 1e-6);

  Worksheet twice;
  const Line once = twice.weight("w", tensor({3}));
  EXPECT_TRUE(check_gradients(sum(once * twice.weight("w", tensor({3})))).agrees());
}

TEST(gradient_check, moves_large_numbers_further_so_that_rounding_does_not_decide) {
  // At 1e12 numbers are 1.2e-4 apart: a step of 1e-5 would not move at all.
  Worksheet sheet;
  const Line w = sheet.weight("w", tensor({1e12, -3e9, 2}));
  const GradientCheck check = check_gradients(sum(square(w)));
  EXPECT_TRUE(check.agrees()) << check.weights[0].error;
}

TEST(gradient_check, counts_numbers_on_kinks_apart_and_still_finds_what_is_wrong) {
  Worksheet sheet;
  const Line w = sheet.weight("w", tensor({0, 0.5, -2, 3e-6}));
  const GradientCheck check = check_gradients(sum(3 * relu(w)));
  EXPECT_TRUE(check.agrees());
  EXPECT_EQ(check.weights[0].checked, 4);
  EXPECT_EQ(check.weights[0].on_kinks, 1) << "3e-6 is near a kink, and on none";

  const Line all = sheet.weight("all", tensor({0, 0}));
  const GradientCheck on_kinks = check_gradients(sum(relu(all)));
  EXPECT_TRUE(on_kinks.agrees());
  EXPECT_EQ(on_kinks.weights[0].on_kinks, 2);
  EXPECT_EQ(on_kinks.weights[0].error, 0.0);

  // A wrong slope of a function that bends, however sharply, is no kink; nor is one beside a kink.
  const auto wrong = own_operation(
      "wrong", [](auto x) { return exp(200 * x); }, [](auto x) { return 201 * exp(200 * x); });
  const auto bent = own_operation(
      "bent", [](auto x) { return where(x > number_for(x, 0.0), x, number_for(x, 0.0)); },
      [](auto x) {
        return where(x > number_for(x, 0.0), number_for(x, 1.01), number_for(x, 0.0));
      });
  const auto steep = own_operation(
      "steep", [](auto x) { return exp(2e5 * x); }, [](auto x) { return 2.02e5 * exp(2e5 * x); });
  EXPECT_FALSE(check_gradients(sum(steep(sheet.weight("s", tensor({1e-5}))))).agrees());
  EXPECT_FALSE(check_gradients(sum(wrong(sheet.weight("v", tensor({0.01}))))).agrees());
  const GradientCheck beside = check_gradients(sum(bent(sheet.weight("u", tensor({0, 1, -1})))));
  EXPECT_FALSE(beside.agrees());
  EXPECT_EQ(beside.weights[0].on_kinks, 1);
  EXPECT_EQ(beside.weights[0].worst, (Index{1}));
}

TEST(gradient_check, looks_at_a_sample_of_a_large_weight_and_says_so) {
  Worksheet sheet;
  Random random(1);
  const Line W = sheet.weight("W", normal({40, 40}, 0, 1, random));
  const GradientCheck check = check_gradients(mean(square(W)), {.most = 25});
  EXPECT_EQ(check.weights[0].checked, 25);
  EXPECT_TRUE(check.agrees());
}

TEST(gradient_check, does_not_take_rounding_for_a_fault) {
  Worksheet sheet;
  const Line w = sheet.weight("w", tensor({1e-9, 0.0}));
  EXPECT_TRUE(check_gradients(1e6 + sum(square(w))).agrees());
}

TEST(gradient_check, fails_where_a_gradient_is_no_number) {
  Worksheet sheet;
  const Line w = sheet.weight("w", tensor({-1000.0}));
  EXPECT_FALSE(check_gradients(sum(sigmoid(w, Form::naive))).agrees());
  EXPECT_TRUE(check_gradients(sum(sigmoid(w))).agrees());
}

TEST(gradient_check, refuses_settings_and_lines_it_cannot_work_with) {
  const SmallNetwork network;
  constexpr double nan = std::numeric_limits<double>::quiet_NaN();
  EXPECT_THROW(static_cast<void>(check_gradients(network.cost, {.step = 0.0})), SettingError);
  EXPECT_THROW(static_cast<void>(check_gradients(network.cost, {.tolerance = nan})), SettingError);
  EXPECT_THROW(static_cast<void>(check_gradients(network.cost, {.most = 0})), SettingError);
  EXPECT_THROW(static_cast<void>(check_gradients(network.sheet.line("W"))), ShapeError);
  EXPECT_THROW(static_cast<void>(check_gradients(Line())), LineError);
}

/// A line through points that lie on it but for noise, and the sweep of half its mean squared error
/// at the weights where it is lowest, from the normal equations.
struct AtTheLowest {
  Worksheet sheet;
  Line x;
  Line y;
  Line W;
  Line z;
  std::optional<ReverseSweep> sweep = std::nullopt;

  AtTheLowest() {
    Random random(5);
    Tensor points = join({normal({40, 1}, 3.0, 1.0, random), ones({40, 1})}, 1);
    Tensor truth = matmul(points, tensor({{80.0}, {20.0}})) + normal({40, 1}, 0.0, 5.0, random);
    const Tensor xx = matmul(points, points, {.first = true});
    const Tensor xy = matmul(points, truth, {.first = true});
    const double a = xx.at({0, 0});
    const double b = xx.at({0, 1});
    const double d = xx.at({1, 1});
    const double det = a * d - b * b;
    const Tensor lowest = tensor({{(d * xy.at({0, 0}) - b * xy.at({1, 0})) / det},
                                  {(a * xy.at({1, 0}) - b * xy.at({0, 0})) / det}});
    x = sheet.given("x", points);
    y = sheet.given("y", truth);
    W = sheet.weight("W", lowest);
    z = named("z", matmul(x, W));
    sweep.emplace(named("cost", 0.5 * mean(square(z - y))));
    while (sweep->next()) {
    }
  }

  /// The gradient by hand: xᵀ(z − y)/n, in another order of rounding.
  [[nodiscard]] Tensor by_hand() const {
    return matmul(x.value(), z.value(), {.first = true}) / 40.0 -
           matmul(x.value(), y.value(), {.first = true}) / 40.0;
  }
};

TEST(agreement, of_a_gradient_at_the_lowest_loss_allows_for_the_rounding_of_its_terms) {
  const AtTheLowest line;
  const Tensor hand = line.by_hand();
  const Tensor engine = line.sweep->gradient(line.W);
  // Nothing but rounding is left of sums of numbers of hundreds.
  EXPECT_LT(std::abs(engine.at({0, 0})), 1e-10);
  ASSERT_NE(hand, engine);
  const Agreement with_terms = agreement(hand, *line.sweep, line.W);
  EXPECT_TRUE(with_terms.agrees) << with_terms.text();
  EXPECT_EQ(with_terms.text().find("both are"), std::string::npos);
  // As large as terms of the data, an error shows all the same.
  const Agreement wrong = agreement(hand + 1e-3, *line.sweep, line.W);
  EXPECT_FALSE(wrong.agrees);
  EXPECT_FALSE(agreement(2.0 * hand + 1e-3, engine).agrees);
}

// Terms are as large as they are divided: a millionth each here.
TEST(agreement, of_a_gradient_knows_what_its_terms_are_divided_by) {
  Worksheet sheet;
  const Line W = sheet.weight("W", tensor({1.0, 2.0}));
  const Line b = sheet.given("b", tensor({1e6, 1e6}));
  ReverseSweep sweep(named("cost", sum(W / b) - sum(W / b)));
  while (sweep.next()) {
  }
  EXPECT_TRUE(agreement(tensor({1e-17, 0.0}), sweep, W).agrees);
  EXPECT_FALSE(agreement(tensor({1e-12, 0.0}), sweep, W).agrees);
}

TEST(agreement, never_says_that_what_differs_is_once_the_other) {
  const Tensor engine = tensor({1e-17, 2e-17, -3e-17});
  const Agreement answer = agreement(engine * (1.0 + 1e-7), engine);
  EXPECT_FALSE(answer.agrees);
  EXPECT_EQ(answer.hint, "");
}

}  // namespace
}  // namespace lattice
