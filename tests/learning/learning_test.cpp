#include <gtest/gtest.h>

#include <cmath>
#include <limits>

#include "lattice/lattice.hpp"

namespace lattice {
namespace {

TEST(descent, goes_rate_times_gradient_against_the_gradient) {
  const Descent rule{.rate = 0.5};
  EXPECT_EQ(rule.updated(tensor({1, 2}), tensor({4, -2})).numbers(), (std::vector<double>{-1, 3}));
  EXPECT_THROW(static_cast<void>(rule.updated(ones({2}), ones({3}))), ShapeError);
}

TEST(descent, explains_an_update_with_the_rule_it_updates_with) {
  const Descent rule{.rate = 0.1};
  const Tensor weight = tensor({0.05, 2});
  const Tensor gradient = tensor({0.31, -7});
  Worksheet sheet;
  const Line b = sheet.weight("b", weight);
  const Explanation why = rule.explain_update(b, weight, gradient, {1});
  EXPECT_EQ(why.text(),
            "new b[1] = b[1] − rate·∂b[1]\n"
            "         = 2 − 0.1·(−7)\n"
            "         = 2.7");
  EXPECT_EQ(why.formula.evaluate(), rule.updated(weight, gradient).at({1}));
  EXPECT_THROW(static_cast<void>(rule.explain_update(b, weight, gradient, {2})), IndexError);
}

TEST(descent, refuses_impossible_rates) {
  for (const double rate : {0.0, -0.1, std::nan(""), std::numeric_limits<double>::infinity()}) {
    EXPECT_THROW(Descent{.rate = rate}.check(), SettingError);
  }
}

TEST(weights, are_found_by_name) {
  Weights weights{{"W", ones({2})}, {"b", zeros({1})}};
  weights["b"] = ones({1});
  EXPECT_EQ(weights["b"].number(), 1);
  EXPECT_THROW(static_cast<void>(weights["w"]), NameError);
}

/// A lesson as the command makes one.
struct Lesson {
  Dataset data = demo_set("shrinkage");
  Random random{5};
  LinearModel model = LinearModel::start(data, random);

  Lesson() { model.scaling = fit_standard_scaling(data.features); }

  [[nodiscard]] WorkedExample work(const Batch& batch, double rate) const {
    const auto write_down = [this](Worksheet& sheet, const Weights& weights, const Batch& rows) {
      return LinearModel{weights, model.scaling}.write_down(sheet, rows);
    };
    return {write_down, model.weights, batch, Descent{.rate = rate}};
  }
};

TEST(worked_example, is_the_first_step_of_training_to_the_last_bit) {
  Lesson lesson;
  const WorkedExample example = lesson.work(all_rows(lesson.data), 0.1);
  LinearModel trained = lesson.model;
  Dataset shuffled_alike = lesson.data;
  Random order(1);
  Random same_order(1);
  const RunRecord run =
      train(trained, shuffled_alike, {.rule = {.rate = 0.1}, .epochs = 1, .batch = 120}, order);
  Minibatches epoch = minibatches(lesson.data, {.size = 120}, same_order);
  const WorkedExample step = lesson.work(*epoch.begin(), 0.1);
  EXPECT_EQ(run.epochs[1].running_cost, step.loss_before() * 120 / 120);
  for (const WorkedExample::Update& update : step.updates()) {
    EXPECT_EQ(trained.weights[update.weight], update.after);
  }
  EXPECT_EQ(run.epochs[0].whole_cost, example.loss_before());
}

TEST(worked_example, explains_each_of_its_numbers_so_that_the_formula_gives_it_again) {
  const Lesson lesson;
  const WorkedExample example = lesson.work(take_rows(lesson.data, {3, 1, 4, 15, 9}), 0.1);
  for (const Line& line : example.sheet().lines()) {
    for (std::int64_t offset = 0; offset < line.shape().count(); ++offset) {
      const Place place{line.name(), line.shape().index(offset)};
      const Explanation value = example.why(place, WorkedExample::Ask::value);
      EXPECT_NEAR(value.formula.evaluate(), line.value().at_offset(offset), 1e-10);
      if (!line.depends_on_weights() || line == example.cost()) continue;
      const Explanation gradient = example.why(place, WorkedExample::Ask::gradient);
      EXPECT_NEAR(gradient.formula.evaluate(), gradient.value, 1e-10);
    }
  }
  for (const WorkedExample::Update& update : example.updates()) {
    const Explanation why = example.why({update.weight, Index::zeros(update.after.shape().rank())},
                                        WorkedExample::Ask::update);
    EXPECT_EQ(why.formula.evaluate(), update.after.at_offset(0));
  }
}

TEST(worked_example, refuses_questions_without_an_answer) {
  const Lesson lesson;
  const WorkedExample example = lesson.work(take_rows(lesson.data, {0, 1}), 0.1);
  using Ask = WorkedExample::Ask;
  EXPECT_THROW(static_cast<void>(example.why({"q", {}}, Ask::value)), NameError);
  EXPECT_THROW(static_cast<void>(example.why({"W", {3, 0}}, Ask::value)), IndexError);
  EXPECT_THROW(static_cast<void>(example.why({"W", {3, 0}}, Ask::update)), IndexError);
  EXPECT_THROW(static_cast<void>(example.why({"x", {0, 0}}, Ask::gradient)), NameError);
  EXPECT_THROW(static_cast<void>(example.why({"z", {0, 0}}, Ask::update)), NameError);
}

TEST(training, finds_the_line_that_the_kiln_was_made_with) {
  const Dataset kiln = demo_set("kiln", 2000, 9);
  Random random(1);
  LinearModel model = LinearModel::start(kiln, random);
  static_cast<void>(
      train(model, kiln, {.rule = {.rate = 0.01}, .epochs = 40, .batch = 20}, random));
  EXPECT_NEAR(model.weights["W"].number(), 85.0, 2.0);
  EXPECT_NEAR(model.weights["b"].number(), 20.0, 10.0);
}

TEST(training, weighs_a_smaller_last_minibatch_by_its_rows) {
  const Dataset data{
      .name = "three", .features = zeros(Shape{3, 1}), .targets = tensor({{1}, {2}, {4}})};
  Random random(1);
  LinearModel model = LinearModel::start(data, random);
  const RunRecord run =
      train(model, data, {.rule = {.rate = 1e-300}, .epochs = 1, .batch = 2}, random);
  EXPECT_NEAR(run.epochs[1].running_cost, (1.0 + 4.0 + 16.0) / 6.0, 1e-12);
}

TEST(training, is_the_same_for_the_same_seed) {
  const auto weights = [](std::uint64_t seed) {
    Random random(seed);
    const Dataset kiln = demo_set("kiln");
    LinearModel model = LinearModel::start(kiln, random);
    static_cast<void>(train(model, kiln, {.epochs = 3, .batch = 7}, random));
    return model.weights["W"];
  };
  EXPECT_EQ(weights(1), weights(1));
  EXPECT_FALSE(weights(1) == weights(2));
}

TEST(training, stops_when_the_cost_is_no_longer_a_number_and_keeps_the_last_whole_epoch) {
  const Dataset data = demo_set("shrinkage");
  Random random(1);
  LinearModel model = LinearModel::start(data, random);
  try {
    static_cast<void>(
        train(model, data, {.rule = {.rate = 0.1}, .epochs = 99, .batch = 8}, random));
    FAIL();
  } catch (const NumberError& error) {
    EXPECT_NE(error.trouble().where.find("epoch"), std::string::npos);
  }
  for (const Weight& weight : model.weights) {
    for (const double number : weight.value.numbers())
      EXPECT_TRUE(std::isfinite(number));
  }
  EXPECT_THROW(train(model, data, {.epochs = 0}, random), SettingError);
  EXPECT_THROW(train(model, data, {.rule = {.rate = -1}}, random), SettingError);
}

TEST(training, tells_an_observer_after_each_epoch) {
  const Dataset kiln = demo_set("kiln");
  Random random(1);
  LinearModel model = LinearModel::start(kiln, random);
  std::vector<std::int64_t> epochs;
  static_cast<void>(
      train(model, kiln,
            {.epochs = 2, .observer = [&](const EpochFigures& f) { epochs.push_back(f.epoch); }},
            random));
  EXPECT_EQ(epochs, (std::vector<std::int64_t>{0, 1, 2}));
}

}  // namespace
}  // namespace lattice
