#include <gtest/gtest.h>

#include <cmath>

#include "lattice/core.hpp"

namespace lattice {
namespace {

/// A calculation of up to thirty lines drawn at random, in which lines are used again and again.
/// The same seed draws the same calculation, on whatever numbers the weights have.
struct RandomCalculation {
  Worksheet sheet;
  std::vector<Line> lines;
  Line total;

  RandomCalculation(std::uint64_t seed, const std::vector<Tensor>& weights) {
    Random random(seed);
    for (const Tensor& tensor : weights) {
      lines.push_back(sheet.weight("w" + std::to_string(lines.size()), tensor));
    }
    const std::int64_t steps = 5 + random.below(20);
    for (std::int64_t step = 0; step < steps; ++step) {
      lines.push_back(draw_line(random));
      if (random.below(2) == 0) named("n" + std::to_string(step), lines.back());
    }
    total = mean(lines.back());
    for (std::size_t line = weights.size(); line + 1 < lines.size(); line += 3) {
      total = total + 0.3 * mean(tanh(lines[line]));
    }
    named("total", total);
  }

 private:
  Line any(Random& random) {
    return lines[static_cast<std::size_t>(random.below(std::ssize(lines)))];
  }

  /// All lines are [3 × 3], or stretch to it, and stay of ordinary size.
  Line draw_line(Random& random) {
    const Line a = any(random);
    const Line b = any(random);
    switch (random.below(16)) {
      case 0:
        return 0.5 * (a + b);
      case 1:
        return a - 0.7 * b;
      case 2:
        return tanh(a * b);
      case 3:
        return sigmoid(a);
      case 4:
        return a / (1.5 + square(tanh(b)));
      case 5:
        return tanh(matmul(a, b));
      case 6:
        return mean(a, {.axes = {0}, .keep = true}) + b;
      case 7:
        return exp(-square(a));
      case 8:
        return softmax(a, static_cast<int>(random.below(2)));
      case 9:
        return softplus(a) - 0.5 * elu(b);
      case 10:
        return tanh(join({slice(a, 0, {.end = 1}), slice(b, 0, {.from = 1})}, 0));
      case 11:
        return permute(tanh(a), {1, 0}) * sqrt(1 + square(b));
      case 12:
        return a - log_sum_exp(a, {.axes = {1}, .keep = true});
      case 13:
        return (a - mean(a)) / sqrt(variance(a) + 0.5);
      case 14:
        return 0.3 * matmul(tanh(a), tanh(b), {.first = true});
      default:
        return transpose(a) + log(1.2 + square(b));
    }
  }
};

std::vector<Tensor> draw_weights(std::uint64_t seed) {
  Random random = Random(seed).branch("weights");
  std::vector<Tensor> weights;
  for (int i = 0; i < 3; ++i)
    weights.push_back(normal({3, 3}, 0.0, 0.7, random));
  return weights;
}

TEST(calculations, go_along_one_axis_by_its_number) {
  const Tensor t = tensor({{1, 2}, {3, 6}});
  EXPECT_EQ(sum(t, 0), sum(t, {.axes = {0}}));
  EXPECT_EQ(mean(t, 1), tensor({1.5, 4.5}));
  EXPECT_EQ(variance(t, -1), tensor({0.25, 2.25}));
  Worksheet sheet;
  const Line w = sheet.weight("w", t);
  EXPECT_EQ(sum(w, 1).symbols(), "sum(w; axis 1)");
  EXPECT_EQ(mean(w, 0).value(), tensor({2, 4}));
}

TEST(calculations_at_random, have_gradients_that_agree_with_central_differences) {
  constexpr double step = 1e-5;
  for (std::uint64_t seed = 0; seed < 1000; ++seed) {
    const std::vector<Tensor> weights = draw_weights(seed);
    const RandomCalculation calculation(seed, weights);
    ReverseSweep sweep(calculation.total);
    while (sweep.next()) {
    }
    for (std::size_t weight = 0; weight < weights.size(); ++weight) {
      if (!sweep.has_reached(calculation.lines[weight])) continue;
      const Tensor& gradient = sweep.gradient(calculation.lines[weight]);
      const Index at{static_cast<std::int64_t>(seed % 3), static_cast<std::int64_t>(seed / 3 % 3)};
      const auto total_with = [&](double change) {
        std::vector<Tensor> changed = weights;
        changed[weight].set(at, changed[weight].at(at) + change);
        return RandomCalculation(seed, changed).total.value().number();
      };
      const double difference = (total_with(step) - total_with(-step)) / (2 * step);
      ASSERT_NEAR(gradient.at(at), difference, 1e-6 * std::max(1.0, std::abs(difference)))
          << "seed " << seed << ", weight " << weight;
    }
  }
}

TEST(calculations_at_random, can_be_explained_number_by_number) {
  for (std::uint64_t seed = 0; seed < 100; ++seed) {
    const RandomCalculation calculation(seed, draw_weights(seed));
    ReverseSweep sweep(calculation.total);
    while (sweep.next()) {
    }
    for (const Line& line : calculation.sheet.lines()) {
      const Index at = Index::zeros(line.shape().rank());
      ASSERT_NEAR(explain(line, at).formula.evaluate(), line.value().at(at), 1e-9) << seed;
      if (!sweep.has_reached(line)) continue;
      ASSERT_NEAR(explain_gradient(sweep, line, at).formula.evaluate(), sweep.gradient(line).at(at),
                  1e-9)
          << "seed " << seed << ", line " << line.number();
    }
  }
}

}  // namespace
}  // namespace lattice
