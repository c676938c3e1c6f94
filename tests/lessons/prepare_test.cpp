#include "lattice/lessons/prepare.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include "lattice/lattice.hpp"
#include "support/said.hpp"

namespace lattice {
namespace {

using ::testing::Contains;
using ::testing::HasSubstr;

Prepared prepared_glazes() {
  return prepare(
      parse_lesson("[data]\nset = \"glazes\"\n[network]\nnet = \"dense 3, tanh, dense 4\"\n"
                   "[training]\nrule = \"adam\"\nrate = 0.01\nepochs = 3\nbatch = 100\n",
                   "test.toml"));
}

// A worked example is a few steps of the run, and of no other.
TEST(prepare, writes_a_loss_out_and_naively_with_the_same_numbers) {
  for (const char* net : {"dense 3, tanh, dense 4", "dense 4, softmax"}) {
    const std::string lesson = std::string(
                                   "[data]\nset = \"glazes\"\n[training]\nbatch = 5\n"
                                   "[network]\nnet = \"") +
                               net + "\"\n[training]\nform = \"";
    Lesson plain = parse_lesson("[data]\nset = \"glazes\"\n[training]\nbatch = 5\n", "");
    plain.network.blueprint = net;
    const WorkedMinibatch one_line = prepare(plain).work(2);
    for (const Form form : {Form::written_out, Form::naive}) {
      plain.form = form;
      const WorkedMinibatch work = prepare(plain).work(2);
      EXPECT_GT(work.sheet().size(), one_line.sheet().size() + 2);
      EXPECT_NEAR(work.loss_before(), one_line.loss_before(), 1e-12);
      EXPECT_NEAR(work.loss_after(), one_line.loss_after(), 1e-12);
      EXPECT_TRUE(work.check().agrees());
    }
    std::vector<std::string> operations;
    const WorkedMinibatch naive = prepare(plain).work(1);
    for (const Line& line : naive.sheet().lines()) {
      if (line.section() == "loss") operations.emplace_back(line.operation());
    }
    EXPECT_THAT(operations, ::testing::ElementsAre("exp", "sum", "divide", "at class", "log",
                                                   "mean", "negate"));
  }
  Lesson cracks = parse_lesson("[data]\nset = \"cracks\"\n[network]\nnet = \"dense 1\"\n", "");
  const double expected = prepare(cracks).work(1).loss_before();
  cracks.form = Form::naive;
  EXPECT_NEAR(prepare(cracks).work(1).loss_before(), expected, 1e-12);
}

TEST(prepared, works_steps_of_the_run_in_its_order_and_each_once) {
  const Prepared prepared = prepared_glazes();
  const WorkedExample example = prepared.work({20, 1, 20, 5});
  ASSERT_EQ(example.steps.size(), 3U);
  EXPECT_EQ(example.steps[0].step, 1);
  EXPECT_EQ(example.steps[1].step, 5);
  EXPECT_EQ(example.steps[2].step, 20);
  EXPECT_EQ(example.steps[2].epoch, 2);
  EXPECT_FALSE(example.run);

  Network network = prepared.network;
  Training run(network, prepared.split, prepared.training);
  for (int step = 1; step < 20; ++step)
    run.step();
  const WorkedSheet& last = example.steps[2].work;
  EXPECT_EQ(last.sheet().line("hidden.weight").value(), network["hidden.weight"]);
  EXPECT_EQ(last.rule()->memory().step, 19);
  run.step();
  for (const WorkedMinibatch::Update& update : last.updates())
    EXPECT_LT(distance(update.after, network[update.weight]).largest, 1e-15) << update.weight;
}

TEST(prepared, goes_on_to_the_end_of_the_run_when_its_figures_are_asked_for) {
  const Prepared prepared = prepared_glazes();
  const WorkedExample example = prepared.work({2}, true);
  Network network = prepared.network;
  const RunRecord run = train(network, prepared.split, prepared.training);
  ASSERT_TRUE(example.run);
  EXPECT_EQ(example.run->updates, run.updates);
  EXPECT_EQ(example.run->watched(), run.watched());
}

TEST(prepared, says_what_it_is_in_words) {
  const Prepared prepared = prepared_glazes();
  EXPECT_EQ(prepared.title(), "glazes: dense 3, tanh, dense 4");
  EXPECT_THAT(prepared.in_words(), Contains("adam rate 0.01"));
  EXPECT_THAT(prepared.in_words(), Contains("batch 100"));
  const WorkedExample example = prepared.work({1}, false);
  EXPECT_EQ(example.title, prepared.title());
  EXPECT_EQ(example.names.features.size(), 5U);
  EXPECT_EQ(example.names.classes.size(), 4U);
}

TEST(prepared, refuses_steps_that_the_run_does_not_have) {
  const Prepared prepared = prepared_glazes();
  EXPECT_THROW(static_cast<void>(prepared.work(std::vector<std::int64_t>{})), SettingError);
  EXPECT_THROW(static_cast<void>(prepared.work({0, 1})), SettingError);
  EXPECT_THAT(testing::said<SettingError>([&] {
                return prepared.work({1, 37});
              }),
              HasSubstr("1 to 36"));
}

TEST(training, tells_the_running_loss_of_the_epoch_so_far) {
  const Prepared prepared = prepared_glazes();
  Network network = prepared.network;
  Training run(network, prepared.split, prepared.training);
  EXPECT_EQ(run.running().loss, 0.0);
  const double first = prepared.work(1).loss_before();
  const double second = prepared.work(2).loss_before();
  run.step();
  EXPECT_NEAR(run.running().loss, first, 1e-12);
  run.step();
  EXPECT_NEAR(run.running().loss, (first + second) / 2.0, 1e-12);
}

TEST(dataset, labels_features_with_their_units) {
  EXPECT_EQ(demo_set("cracks").label_of(0), "thickness (mm)");
  EXPECT_EQ(demo_set("glazes").label_of(1), "lightness");
  EXPECT_EQ((Dataset{.name = "t", .features = tensor({{1, 2}})}.label_of(1)), "feature 1");
  for (const DemoSet& set : demo_sets()) {
    const Dataset data = demo_set(set.name);
    EXPECT_EQ(set.units.size(), data.is_connected() ? 0U : data.feature_names.size()) << set.name;
  }
}

TEST(formula, tells_its_shorthands_those_inside_others_first) {
  const Formula m = Formula::shorthand("m", Formula(2.0) + 1.0);
  const Formula corrected = Formula::shorthand("c", m / 2.0);
  const Formula inside = Formula::choice(corrected > m, m, 0.0);
  const std::vector<Formula> parts = (inside + corrected).shorthand_parts();
  ASSERT_EQ(parts.size(), 2U);
  EXPECT_EQ(parts[0].function_name(), "m");
  EXPECT_EQ(parts[1].function_name(), "c");
  EXPECT_EQ(parts[1].evaluate(), 1.5);
}

TEST(prepare, takes_points_that_are_typed_into_the_lesson) {
  const auto lesson = [](const std::string& points) {
    return parse_lesson(
        "[data]\npoints = " + points + "\nscale = \"none\"\n[split]\nvalidation = 0\ntest = 0\n",
        "points.toml");
  };
  const Lesson line = lesson("[[1, 3], [2, 5.5], [3, 7]]");
  const Prepared prepared = prepare(line);
  EXPECT_EQ(prepared.data().features.numbers(), (std::vector<double>{1, 2, 3}));
  EXPECT_EQ(prepared.data().targets.numbers(), (std::vector<double>{3, 5.5, 7}));
  EXPECT_EQ(prepared.data().feature_names, (std::vector<std::string>{"x"}));
  // Back from a model file, or written out as a lesson again: the same points.
  EXPECT_EQ(lesson_from_json(to_json(line)).data.points, line.data.points);
  EXPECT_EQ(parse_lesson(to_toml(line, prepared.in_full()), "again.toml").data.points,
            line.data.points);
  const Prepared classes =
      prepare(lesson("[[1, 3, \"a\"], [2, 5, \"b\"], [3, 7, \"a\"], [1, 1, \"b\"]]"));
  EXPECT_EQ(classes.data().feature_names, (std::vector<std::string>{"x1", "x2"}));
  EXPECT_EQ(classes.data().all_class_names(), (std::vector<std::string>{"a", "b"}));
  const auto trouble = [&](const std::string& points) {
    return testing::said<Error>([&] { static_cast<void>(prepare(lesson(points))); });
  };
  EXPECT_THAT(trouble("[[1, 3], [2]]"), HasSubstr("a point of two numbers or more"));
  EXPECT_THAT(trouble("[[1, 3], [2, 4, 5]]"), HasSubstr("the points have different lengths"));
  EXPECT_THAT(trouble("[[1, 3], [2, true]]"), HasSubstr("a text in quotes"));
  EXPECT_THAT(trouble("7"), HasSubstr("a point of two numbers or more"));
  EXPECT_THAT(trouble("[[1, 3], [2, 4]]\nset = \"kiln\""), HasSubstr("several sources of rows"));
}

}  // namespace
}  // namespace lattice
