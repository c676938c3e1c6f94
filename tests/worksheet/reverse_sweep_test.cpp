#include "lattice/worksheet/reverse_sweep.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include "lattice/core.hpp"

namespace lattice {
namespace {

/// cost = 0.5 · mean((x·W + b)²) for two examples.
struct SmallSheet {
  Worksheet sheet;
  Line x = sheet.given("x", tensor({{1, 2}, {3, 4}}));
  Line W = sheet.weight("W", tensor({{0.5}, {-1}}));
  Line b = sheet.weight("b", tensor({0.25}));
  Line z = named("z", matmul(x, W) + b);
  Line cost = named("cost", 0.5 * mean(square(z)));
};

TEST(reverse_sweep, gives_every_gradient_in_one_call) {
  const SmallSheet f;
  const Gradients gradients = reverse_sweep(f.cost);
  // z = −1.25, −2.25; ∂z = z/2
  EXPECT_EQ(gradients["W"].numbers(), (std::vector<double>{-0.625 - 3.375, -1.25 - 4.5}));
  EXPECT_EQ(gradients["b"].number(), -1.75);
  EXPECT_EQ(gradients[f.W], gradients["W"]);
  EXPECT_EQ(gradients.size(), 2U);
  EXPECT_EQ(gradients.begin()->weight, "W");
  EXPECT_THROW(static_cast<void>(gradients["x"]), NameError);
}

TEST(reverse_sweep, adds_up_what_comes_back_from_every_use) {
  Worksheet sheet;
  const Line w = sheet.weight("w", tensor(3));
  const Line cost = w * w + 2 * w + w;
  EXPECT_EQ(reverse_sweep(cost)["w"].number(), 2 * 3 + 2 + 1);
}

TEST(reverse_sweep, tells_of_data_that_is_asked_about_and_no_rule_sees_it) {
  Worksheet sheet;
  const Line x = sheet.asked("x", tensor({{1, 2}, {3, 4}}));
  const Line W = sheet.weight("W", tensor({{0.5}, {-1}}));
  const Line frozen = sheet.frozen("V", tensor({{2}, {1}}));
  const Line cost = sum(square(matmul(x, W))) + sum(matmul(x, frozen));
  EXPECT_EQ(x.operation(), "given, and asked about");
  EXPECT_TRUE(x.is_swept());
  const Gradients gradients = reverse_sweep(cost);
  // x·W = −1.5, −2.5
  const std::vector<double> expected = {-3 * 0.5 + 2, 3 + 1, -5 * 0.5 + 2, 5 + 1};
  EXPECT_EQ(gradients[x].numbers(), expected);
  EXPECT_EQ(gradients["x"], gradients[x]);
  EXPECT_EQ(gradients.size(), 1U);
  EXPECT_EQ(gradients.begin()->weight, "W");

  ReverseSweep sweep(cost);
  while (sweep.next()) {
  }
  EXPECT_EQ(sweep.gradient(x), gradients[x]);
  EXPECT_EQ(sweep.gradients()["x"], gradients[x]);
  EXPECT_EQ(sweep.gradients().size(), 1U);
  const GradientCheck check = check_gradients(cost);
  ASSERT_EQ(check.weights.size(), 2U);
  EXPECT_TRUE(check.agrees());

  Weights weights = {{.name = "W", .value = W.value()}};
  Descent rule{.rate = 0.1};
  update(rule, weights, gradients);
  EXPECT_NE(weights["W"], W.value());
  EXPECT_THAT(explain(x, {1, 0}).note, ::testing::HasSubstr("asked about"));
}

TEST(reverse_sweep, walks_one_line_at_a_time) {
  const SmallSheet f;
  ReverseSweep sweep(f.cost);
  EXPECT_THROW(static_cast<void>(sweep.step()), LineError);
  EXPECT_THROW(static_cast<void>(sweep.gradient(f.W)), LineError);

  std::vector<std::string> order;
  while (sweep.next()) {
    order.push_back(sweep.step().line.name());
    if (sweep.step().line == f.z) {
      ASSERT_EQ(sweep.step().passed_on.size(), 2U);
      EXPECT_EQ(sweep.step().passed_on[1].to, f.b);
      EXPECT_EQ(sweep.step().passed_on[1].contribution.number(), -1.75);
      EXPECT_EQ(f.z.reverse_symbols(1), "Σ(axis 0) ∂z");
    }
  }
  EXPECT_EQ(order, (std::vector<std::string>{"cost", "#7", "#6", "z", "#4", "b", "W"}));
  EXPECT_FALSE(sweep.next());
  EXPECT_EQ(sweep.gradient(f.W), reverse_sweep(f.cost)["W"]);
}

TEST(reverse_sweep, passes_over_what_the_result_does_not_depend_on) {
  SmallSheet f;
  const Line other = f.sheet.weight("other", tensor(1));
  const Line later = f.cost + 0.0 * other;
  ReverseSweep sweep(f.cost);
  while (sweep.next()) {
  }
  EXPECT_FALSE(sweep.has_reached(other));
  EXPECT_THROW(static_cast<void>(sweep.gradient(other)), NameError);
  EXPECT_THROW(static_cast<void>(sweep.gradient(later)), NameError);
  EXPECT_THROW(static_cast<void>(sweep.gradient(f.x)), NameError);
  Worksheet another;
  EXPECT_THROW(static_cast<void>(sweep.gradient(another.weight("v", tensor(1)))), LineError);
}

TEST(reverse_sweep, refuses_to_start_where_there_is_nothing_to_find) {
  const SmallSheet f;
  try {
    static_cast<void>(reverse_sweep(f.z));
    FAIL();
  } catch (const ShapeError& error) {
    EXPECT_EQ(error.trouble().found, "[2 × unit 1]");
    EXPECT_NE(error.trouble().remedy.find("reverse_sweep(line, seed)"), std::string::npos);
  }
  EXPECT_THROW(ReverseSweep{f.z}, ShapeError);
  EXPECT_THROW(static_cast<void>(reverse_sweep(sum(f.x))), NameError);
  EXPECT_THROW(static_cast<void>(reverse_sweep(Line())), LineError);
}

TEST(reverse_sweep, leaves_nothing_behind_for_the_next) {
  const SmallSheet f;
  const Gradients first = reverse_sweep(f.cost);
  const Gradients second = reverse_sweep(f.cost);
  EXPECT_EQ(first["W"], second["W"]);
  EXPECT_EQ(first["b"], second["b"]);
}

TEST(reverse_sweep, leaves_nothing_behind_when_an_operation_of_ones_own_ends_it) {
  static bool breaks = true;
  const auto fragile = own_operation(
      "fragile", [](auto x) { return 3 * x; },
      [](auto x) {
        if (breaks) throw SettingError({.what = "no slope today"});
        return 0 * x + 3;
      });
  Worksheet sheet;
  const Line w = sheet.weight("w", tensor({1, 2}));
  const Line v = sheet.weight("v", tensor({1, 2}));
  const Line cost = sum(w * v) + sum(fragile(w));
  EXPECT_THROW(static_cast<void>(reverse_sweep(cost)), SettingError);
  breaks = false;
  EXPECT_EQ(reverse_sweep(cost)["w"].numbers(), (std::vector<double>{4, 5}));
  EXPECT_EQ(reverse_sweep(cost)["v"].numbers(), (std::vector<double>{1, 2}));
}

TEST(reverse_sweep, cannot_go_on_when_the_worksheet_has_ended) {
  auto f = std::make_unique<SmallSheet>();
  ReverseSweep sweep(f->cost);
  EXPECT_TRUE(sweep.next());
  f.reset();
  EXPECT_THROW(sweep.next(), LineError);
}

TEST(reverse_sweep, starts_from_any_line_with_a_gradient_that_is_given) {
  const SmallSheet f;
  const Tensor seed = tensor({{2}, {-1}});
  const Gradients gradients = reverse_sweep(f.z, seed);
  EXPECT_EQ(gradients["W"].numbers(), (std::vector<double>{2 * 1 - 3, 2 * 2 - 4}));
  EXPECT_EQ(gradients["b"].number(), 1);
  ReverseSweep sweep(f.z, seed);
  while (sweep.next()) {
  }
  EXPECT_EQ(sweep.gradient("W"), gradients["W"]);
  EXPECT_EQ(explain_gradient(sweep, f.z, {1, 0}).note,
            "the sweep starts here, with a gradient that was given");
  EXPECT_THROW(static_cast<void>(reverse_sweep(f.z, ones({2}))), ShapeError);
  EXPECT_THROW(static_cast<void>(reverse_sweep(f.z, seed.in(Precision::single))), NumberError);
  EXPECT_THROW(static_cast<void>(reverse_sweep(f.z, Tensor())), NumberError);
  EXPECT_THROW(static_cast<void>(reverse_sweep(f.x, ones({2, 2}))), NameError);
}

TEST(reverse_sweep, goes_forward_again_as_if_it_had_never_gone_back) {
  Worksheet sheet;
  const Line w = sheet.weight("w", tensor({1, 2}));
  const Line a = named("a", w * w);
  const Line b = named("b", a * w + a);
  const Line cost = named("cost", sum(b));
  ReverseSweep sweep(cost);
  EXPECT_FALSE(sweep.previous());

  std::vector<ReverseStep> steps;
  while (sweep.next())
    steps.push_back(sweep.step());
  const Tensor gradient = sweep.gradient(w);
  for (std::size_t back = steps.size(); back-- > 1;) {
    ASSERT_TRUE(sweep.previous());
    EXPECT_EQ(sweep.step().line, steps[back - 1].line);
  }
  EXPECT_FALSE(sweep.has_reached(a));
  EXPECT_THROW(static_cast<void>(sweep.gradient(w)), LineError);
  for (std::size_t i = 1; i < steps.size(); ++i) {
    ASSERT_TRUE(sweep.next());
    EXPECT_EQ(sweep.step().gradient, steps[i].gradient);
  }
  EXPECT_FALSE(sweep.next());
  EXPECT_EQ(sweep.gradient(w), gradient);
}

TEST(reverse_sweep, leaves_frozen_weights_alone) {
  Worksheet sheet;
  const Line W = sheet.frozen("W", tensor({{2, 3}}));
  const Line b = sheet.weight("b", tensor({1, 1}));
  const Line cost = named("cost", sum(W + b));
  EXPECT_EQ(W.kind(), Line::Kind::frozen);
  EXPECT_EQ(W.operation(), "frozen weight");
  EXPECT_EQ(to_string(W.shape()), "[1 × 2]");
  const Gradients gradients = reverse_sweep(cost);
  EXPECT_EQ(gradients.size(), 1U);
  EXPECT_THROW(static_cast<void>(gradients["W"]), NameError);
  ReverseSweep sweep(cost);
  while (sweep.next()) {
  }
  try {
    static_cast<void>(sweep.gradient("W"));
    FAIL();
  } catch (const NameError& error) {
    EXPECT_EQ(error.trouble().found, "it is frozen");
  }
  EXPECT_EQ(explain(W, {0, 1}).text(), "W[0,1] = 3    (a frozen weight)");
}

TEST(reverse_sweep, ends_at_what_passes_no_gradient_on) {
  Worksheet sheet;
  const Line w = sheet.weight("w", tensor({{1, 3}, {5, 2}}));
  EXPECT_FALSE(above(w, 2.0).is_swept());
  EXPECT_FALSE(argmax(w).is_swept());
  const Line picked = at_class(w, argmax(w));
  EXPECT_EQ(reverse_sweep(sum(picked))["w"].numbers(), (std::vector<double>{0, 1, 1, 0}));
  const Line gated = w * above(w, 2.0);
  EXPECT_EQ(reverse_sweep(sum(gated))["w"].numbers(), (std::vector<double>{0, 1, 1, 0}));
}

}  // namespace
}  // namespace lattice
