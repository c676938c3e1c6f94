#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <cmath>

#include "lattice/core.hpp"
#include "support/said.hpp"

/// Losses of one's own, with a derivative by hand or without, wherever a loss is taken.
namespace lattice::testing {
namespace {

using ::testing::AllOf;
using ::testing::HasSubstr;

Line half_square(const Line& outputs, const Line& truth) {
  return 0.5 * square(outputs - truth);
}

const OwnLoss own_half{.word = "my half square", .lost = half_square};

/// The cross-entropy, from levels: what is learnt from is the true class alone.
const OwnLoss own_entropy{
    .word = "my entropy",
    .lost = [](const Line& scores,
               const Line& truth) { return -sum(truth * log_softmax(scores), {.axes = {1}}); },
    .outputs = Outputs::scores};

Split parts_of(const std::string& set, std::int64_t rows) {
  Random random(3);
  return scaled(split(demo_set(set, rows, 1), {}, random), ScalingKind::standard,
                ScalingKind::standard);
}

/// Trains and judges by a loss; the run, the judgement, and the weights.
struct Learnt {
  Network network;
  RunRecord run;
  Assessment judged;
};

Learnt learnt_by(const Loss& loss, const Split& parts, const std::string& blueprint) {
  Network net(parts.data().example(), blueprint, Random(5));
  RunRecord run = train(net, parts, {.rule = Adam{.rate = 0.01}, .epochs = 3, .loss = loss});
  Assessment judged = assess(net, parts.test, {.loss = loss});
  return {std::move(net), std::move(run), std::move(judged)};
}

void expect_near(const Network& a, const Network& b) {
  for (const Weight& weight : a.weights()) {
    for (std::int64_t at = 0; at < weight.value.count(); ++at)
      EXPECT_NEAR(weight.value.at_offset(at), b[weight.name].at_offset(at), 1e-9) << weight.name;
  }
}

TEST(own_loss, that_says_the_same_learns_and_judges_the_same) {
  const Split kiln = parts_of("kiln", 80);
  const Learnt ours = learnt_by(Loss::half_mean_squared, kiln, "dense 3, tanh, dense 1");
  const Learnt own = learnt_by(own_half, kiln, "dense 3, tanh, dense 1");
  expect_near(ours.network, own.network);
  EXPECT_NEAR(own.judged.loss, ours.judged.loss, 1e-12);
  EXPECT_NEAR(own.judged.numbers[0].r_squared, ours.judged.numbers[0].r_squared, 1e-9);

  const Split glazes = parts_of("glazes", 200);
  const Learnt entropy = learnt_by(Loss::cross_entropy, glazes, "dense 4");
  const Learnt mine = learnt_by(own_entropy, glazes, "dense 4");
  expect_near(entropy.network, mine.network);
  EXPECT_NEAR(mine.judged.loss, entropy.judged.loss, 1e-12);
  EXPECT_EQ(mine.judged.classes->accuracy, entropy.judged.classes->accuracy);
  EXPECT_NEAR(mine.judged.classes->uniform_guess_loss, std::log(4.0), 1e-12);
  // Probabilities are made of its scores.
  const Model model = model_of(mine.network, own_entropy, glazes.train);
  EXPECT_EQ(ask(model, demo_set("glazes", 5, 1).features).kind, Outputs::scores);

  // For classes a squared loss of one's own is aimed at levels, of one output or of several.
  const Split cracks = parts_of("cracks", 120);
  for (const char* blueprint : {"dense 2", "dense 1", "dense 2, softmax", "dense 1, sigmoid"}) {
    const Learnt levels = learnt_by(Loss::half_mean_squared, cracks, blueprint);
    const Learnt by_own = learnt_by(own_half, cracks, blueprint);
    expect_near(levels.network, by_own.network);
    EXPECT_EQ(by_own.judged.classes->accuracy, levels.judged.classes->accuracy) << blueprint;
    EXPECT_NEAR(by_own.judged.classes->uniform_guess_loss,
                levels.judged.classes->uniform_guess_loss, 1e-12);
  }
}

TEST(own_loss, counts_rows_as_they_count) {
  Dataset data = demo_set("kiln", 6, 1);
  data.side = {{.name = std::string(row_weights_name), .value = tensor({1, 0, 2, 1, 0, 3})}};
  const RowSet rows(data);
  const Network net(Shape{1}, "dense 1", Random(2));
  EXPECT_NEAR(figures_of(net, own_half, rows).loss,
              figures_of(net, Loss::half_mean_squared, rows).loss, 1e-9);
  Worksheet sheet;
  const GivenLines given = write_given(sheet, rows.all());
  const Line outputs = write_scores(sheet, net, own_half, given.x);
  const Line own = write_loss(sheet, own_half, outputs, given);
  const Line ours = write_loss(sheet, Loss::half_mean_squared, outputs, given);
  EXPECT_NEAR(own.value().number(), ours.value().number(), 1e-9);
}

TEST(own_loss, is_worked_line_by_line_and_its_derivative_checked) {
  const auto right = own_comparison(
      "smooth", [](auto z, auto t) { return sqrt(1 + square(z - t)) - 1; },
      [](auto z, auto t, auto lost) { return (z - t) / (lost + 1); });
  const auto wrong = own_comparison(
      "smooth", [](auto z, auto t) { return sqrt(1 + square(z - t)) - 1; },
      [](auto z, auto t) { return (z - t) / 2; });
  const Split kiln = parts_of("kiln", 40);
  const Network net(Shape{1}, "dense 1", Random(2));
  const auto worked = [&](const OwnLoss& loss) {
    return WorkedMinibatch(net, kiln.train.from(0, 4), Descent{}, {.loss = loss});
  };
  const WorkedMinibatch work = worked({.word = "smooth error", .lost = right});
  EXPECT_TRUE(work.check().agrees());
  EXPECT_EQ(work.sheet().line("lost").operation(), "smooth");
  EXPECT_THAT(work.why({"lost", {2, 0}}, WorkedSheet::Ask::value).text(),
              HasSubstr("√(1 + (output[2,0] − y[2,0])²) − 1"));
  EXPECT_THAT(work.why({"output", {2, 0}}, WorkedSheet::Ask::gradient).text(),
              HasSubstr("(output[2,0] − y[2,0])/(lost[2,0] + 1)"));
  // The same without a derivative: the sweep goes through the operations.
  const WorkedMinibatch plain =
      worked({.word = "smooth error",
              .lost = [](const Line& z, const Line& t) { return sqrt(1 + square(z - t)) - 1; }});
  EXPECT_NEAR(plain.sweep().gradient(plain.sheet().line("output.weight")).number(),
              work.sweep().gradient(work.sheet().line("output.weight")).number(), 1e-12);
  EXPECT_FALSE(worked({.word = "smooth error", .lost = wrong}).check().agrees());
}

TEST(own_loss, that_cannot_be_says_why) {
  const Split kiln = parts_of("kiln", 40);
  Network net(Shape{1}, "dense 1", Random(2));
  const auto trouble = [&](const OwnLoss& loss) {
    return said([&] { static_cast<void>(train(net, kiln, {.loss = loss})); });
  };
  EXPECT_THAT(trouble({.word = "", .lost = half_square}), HasSubstr("a word that no other"));
  EXPECT_THAT(trouble({.word = "mean squared", .lost = half_square}),
              HasSubstr("the word 'mean squared'"));
  EXPECT_THAT(trouble({.word = "mine", .lost = nullptr}), HasSubstr("mine without a function"));
  EXPECT_THAT(trouble({.word = "mine",
                       .lost = [](const Line& z, const Line& t) { return mean(square(z - t)); }}),
              AllOf(HasSubstr("the loss mine"), HasSubstr("leave the mean to the library")));
  EXPECT_THAT(said([&] {
                static_cast<void>(own_comparison(
                    "off", [](auto z, auto t) { return z - t; }, [](auto, auto) { return 1.0; })(
                    ones({2, 1}), ones({2})));
              }),
              HasSubstr("two tensors of one shape"));
}

}  // namespace
}  // namespace lattice::testing
