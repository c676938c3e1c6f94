#include "lattice/worksheet/reverse_sweep.hpp"

#include <gtest/gtest.h>

#include "lattice/lattice.hpp"

namespace lattice {
namespace {

/// cost = 0.5 · mean((x·W + b)²) for two examples.
struct Fixture {
  Worksheet sheet;
  Line x = sheet.given("x", tensor({{1, 2}, {3, 4}}));
  Line W = sheet.weight("W", tensor({{0.5}, {-1}}));
  Line b = sheet.weight("b", tensor({0.25}));
  Line z = named("z", matmul(x, W) + b);
  Line cost = named("cost", 0.5 * mean(square(z)));
};

TEST(reverse_sweep, gives_every_gradient_in_one_call) {
  const Fixture f;
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

TEST(reverse_sweep, walks_one_line_at_a_time) {
  const Fixture f;
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
  Fixture f;
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
  const Fixture f;
  EXPECT_THROW(static_cast<void>(reverse_sweep(f.z)), ShapeError);
  EXPECT_THROW(ReverseSweep{f.z}, ShapeError);
  EXPECT_THROW(static_cast<void>(reverse_sweep(sum(f.x))), NameError);
  EXPECT_THROW(static_cast<void>(reverse_sweep(Line())), LineError);
}

TEST(reverse_sweep, leaves_nothing_behind_for_the_next) {
  const Fixture f;
  const Gradients first = reverse_sweep(f.cost);
  const Gradients second = reverse_sweep(f.cost);
  EXPECT_EQ(first["W"], second["W"]);
  EXPECT_EQ(first["b"], second["b"]);
}

TEST(reverse_sweep, cannot_go_on_when_the_worksheet_has_ended) {
  auto f = std::make_unique<Fixture>();
  ReverseSweep sweep(f->cost);
  EXPECT_TRUE(sweep.next());
  f.reset();
  EXPECT_THROW(sweep.next(), LineError);
}

}  // namespace
}  // namespace lattice
