#include "lattice/learning/training.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include "lattice/core.hpp"
#include "support/runs.hpp"
#include "support/said.hpp"

namespace lattice {
namespace {

using testing::parts_of;

TEST(training, clips_gradients_and_adds_an_l2_term) {
  const Split parts = parts_of("shrinkage", 120, ScalingKind::none);
  Network net(Shape{3}, "dense 1", Random(3));
  const RunRecord limited =
      train(net, parts, {.rule = Descent{.rate = 0.001}, .epochs = 20, .clip_norm = 1.0});
  EXPECT_EQ(limited.ending, Ending::all_epochs);

  const Split glazes = parts_of("glazes", 200);
  const auto size_with = [&](double l2) {
    Network small(Shape{5}, "dense 8, tanh, dense 4", Random(3));
    const RunRecord run =
        train(small, glazes, {.rule = Adam{.rate = 0.02}, .epochs = 30, .l2 = l2});
    EXPECT_EQ(run.epochs.back().l2_term.has_value(), l2 > 0.0);
    return sum(square(small["hidden.weight"])).number();
  };
  EXPECT_LT(size_with(0.05), 0.5 * size_with(0.0));
}

TEST(training, leaves_biases_out_of_the_l2_term_and_of_decay_and_says_which_they_are) {
  const Split parts = parts_of("glazes", 60);
  Network net(Shape{5}, "dense 4", Random(3));
  net.set("output.bias", 100.0 * ones({4}));
  Worksheet sheet;
  const Line x = sheet.given("x", parts.train.features());
  const Line loss = cross_entropy(net.forward(sheet, x), sheet.given("y", parts.train.classes()));
  const Line total = add_l2(sheet, net, loss, 0.5);
  EXPECT_NEAR(total.value().number() - loss.value().number(),
              0.25 * sum(square(net["output.weight"])).number(), 1e-12);

  // A custom layer may say so of a weight of two axes, and deny it of one of one axis.
  const OwnLayer own{.word = "own",
                     .needs = {{.name = "shift", .shape = Shape{1, 4}, .bias = true},
                               {.name = "gain", .shape = Shape{4}, .bias = false}},
                     .carry_out = [](const Line& in, Pass& pass) {
                       return in * pass.weight("gain") + pass.weight("shift");
                     }};
  Network with_own(Shape{4}, {own}, Random(1));
  with_own.set("own.shift", ones({1, 4}));
  with_own.set("own.gain", 3.0 * ones({4}));
  Worksheet other;
  const Line z = mean(with_own.forward(other, other.given("x", zeros({2, 4}))));
  EXPECT_NEAR(add_l2(other, with_own, z, 0.5).value().number() - z.value().number(), 9.0, 1e-12);
  Descent decaying{.rate = 0.1, .weight_decay = 1.0};
  update(decaying, with_own, reverse_sweep(0.0 * z));
  EXPECT_EQ(with_own["own.shift"], ones({1, 4}));
  EXPECT_NEAR(with_own["own.gain"].at({0}), 2.7, 1e-12);
}

TEST(training, lets_biases_decay_where_that_is_asked_for) {
  const Split parts = parts_of("glazes", 60);
  Network net(Shape{5}, "dense 4", Random(3));
  net.set("output.bias", 100.0 * ones({4}));
  net.set_biases_decay();
  Worksheet sheet;
  const Line x = sheet.given("x", parts.train.features());
  const Line loss = cross_entropy(net.forward(sheet, x), sheet.given("y", parts.train.classes()));
  static_cast<void>(add_l2(sheet, net, loss, 0.5));
  const double of_weights = 0.25 * sum(square(net["output.weight"])).number();
  EXPECT_NEAR(sheet.line("l2").value().number(), of_weights + 0.25 * 4.0 * 100.0 * 100.0, 1e-9);
  Descent decaying{.rate = 0.1, .weight_decay = 0.5};
  update(decaying, net, reverse_sweep(0.0 * loss));
  EXPECT_DOUBLE_EQ(net["output.bias"].at({0}), 95.0);
  // Starting over keeps it, and so it can be taken back.
  net.start_over(Random(4));
  EXPECT_TRUE(net.weights().find("output.bias").decays());
  net.set_biases_decay(false);
  EXPECT_FALSE(net.weights().find("output.bias").decays());
}

TEST(training, spares_a_part_the_l2_term_and_decay_where_that_is_asked_for) {
  const Split parts = parts_of("glazes", 60);
  Network net(Shape{5}, "dense 3, dense 4 without l2", Random(3));
  Worksheet sheet;
  const Line x = sheet.given("x", parts.train.features());
  const Line loss = cross_entropy(net.forward(sheet, x), sheet.given("y", parts.train.classes()));
  const Line total = add_l2(sheet, net, loss, 0.5);
  EXPECT_NEAR(total.value().number() - loss.value().number(),
              0.25 * sum(square(net["hidden.weight"])).number(), 1e-12);
  const Tensor before = net["output.weight"];
  for (UpdateRule rule : std::vector<UpdateRule>{Descent{.rate = 0.1, .weight_decay = 1.0},
                                                 Momentum{.rate = 0.1, .gradient_decay = 1.0}}) {
    Network decaying = net;
    const BeforeUpdate of_output{.line = sheet.line("output.weight"),
                                 .weight = decaying.weights().find("output.weight"),
                                 .gradient = zeros(before.shape())};
    EXPECT_EQ(rule.explain(of_output, {0, 0}).value, before.at({0, 0}));
    update(rule, decaying, reverse_sweep(0.0 * loss));
    EXPECT_EQ(decaying["output.weight"], before);
    EXPECT_NE(decaying["hidden.weight"], net["hidden.weight"]);
  }
  // In a group it is for all that is in it.
  const Network group(Shape{5}, std::vector<Layer>{without_l2(Block({Dense{.outputs = 4}}))},
                      Random(1));
  EXPECT_FALSE(group.weights().find("block.hidden.weight").decays());
}

// An L2 term, decay in the gradient and decay beside it: one thing under plain descent. What
// divides by the size of gradients tells the last from the others.
TEST(training, lets_weights_decay_in_the_gradient_or_beside_it) {
  const Split parts = parts_of("glazes", 100);
  const auto learnt = [&](const UpdateRule& rule, double l2) {
    Network net(Shape{5}, "dense 3, tanh, dense 4", Random(3));
    static_cast<void>(train(net, parts, {.rule = rule, .epochs = 3, .l2 = l2}));
    return net["hidden.weight"];
  };
  const auto apart = [](const Tensor& a, const Tensor& b) { return distance(a, b).largest; };
  const Tensor plain = learnt(Descent{.rate = 0.1, .weight_decay = 0.05}, 0.0);
  EXPECT_LT(apart(plain, learnt(Descent{.rate = 0.1, .gradient_decay = 0.05}, 0.0)), 1e-12);
  EXPECT_LT(apart(plain, learnt(Descent{.rate = 0.1}, 0.05)), 1e-12);
  EXPECT_GT(apart(plain, learnt(Descent{.rate = 0.1}, 0.0)), 1e-3);
  for (const auto& [in_gradient, beside, without] :
       {std::tuple<UpdateRule, UpdateRule, UpdateRule>(Adam{.rate = 0.01, .gradient_decay = 0.05},
                                                       Adam{.rate = 0.01, .weight_decay = 0.05},
                                                       Adam{.rate = 0.01}),
        std::tuple<UpdateRule, UpdateRule, UpdateRule>(
            RmsScaling{.rate = 0.01, .gradient_decay = 0.05},
            RmsScaling{.rate = 0.01, .weight_decay = 0.05}, RmsScaling{.rate = 0.01})}) {
    const Tensor weights = learnt(in_gradient, 0.0);
    EXPECT_LT(apart(weights, learnt(without, 0.05)), 1e-9);
    EXPECT_GT(apart(weights, learnt(beside, 0.0)), 1e-3);
  }
}

// Of 20 rows the sum is 20 times the mean: a rate of a twentieth makes the same steps.
TEST(training, learns_from_the_sum_over_rows_where_that_is_asked_for) {
  const Split parts = parts_of("glazes", 100);
  const auto learnt = [&](OverRows over_rows, double rate, RunRecord& run) {
    Network net(Shape{5}, "dense 3, tanh, dense 4", Random(3));
    run = train(net, parts,
                {.rule = Descent{.rate = rate}, .epochs = 3, .batch = 20, .over_rows = over_rows});
    return net["hidden.weight"];
  };
  RunRecord of_means;
  RunRecord of_sums;
  const Tensor mean = learnt(OverRows::mean, 0.4, of_means);
  EXPECT_LT(distance(mean, learnt(OverRows::sum, 0.02, of_sums)).largest, 1e-12);
  // Figures are means, whatever is learnt from.
  EXPECT_NEAR(of_sums.epochs.back().running->loss, of_means.epochs.back().running->loss, 1e-12);
  EXPECT_GT(distance(mean, learnt(OverRows::sum, 0.4, of_sums)).largest, 0.1);
}

}  // namespace
}  // namespace lattice
