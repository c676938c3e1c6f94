#include <fmt/format.h>
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <filesystem>
#include <set>
#include <sstream>

#include "lattice/lattice.hpp"
#include "lattice/show/charts.hpp"
#include "lattice/show/data.hpp"
#include "lattice/show/judgement.hpp"
#include "lattice/show/plan.hpp"
#include "lattice/show/remark.hpp"
#include "lattice/show/run.hpp"
#include "lattice/text/wrapping.hpp"
#include "support/said.hpp"

namespace lattice {
namespace {

using ::testing::AllOf;
using ::testing::HasSubstr;
using ::testing::Not;

/// The widest row, in columns.
std::size_t width_of(const std::string& text) {
  std::size_t widest = 0;
  for (std::size_t from = 0; from < text.size();) {
    const std::size_t end = text.find('\n', from);
    widest = std::max(widest, columns(text.substr(from, end - from)));
    from = end + 1;
  }
  return widest;
}

RunRecord long_run() {
  RunRecord run;
  for (std::int64_t epoch = 0; epoch <= 100; ++epoch) {
    run.epochs.push_back(
        {.epoch = epoch,
         .running = epoch == 0 ? std::nullopt : std::optional<Figures>({.loss = 1.5}),
         .train = Figures{.loss = 2.0}});
  }
  return run;
}

TEST(run_table, shows_some_epochs_of_many_and_always_the_last_and_the_best) {
  RunRecord run = long_run();
  run.best = BestWeights{.epoch = 37, .loss = 1.0};
  const std::string text = show_run(run, {});
  EXPECT_THAT(text, HasSubstr("\n     90 "));
  EXPECT_THAT(text, HasSubstr("\n    100 "));
  EXPECT_THAT(text, HasSubstr("\nbest 37 "));
  EXPECT_THAT(text, HasSubstr("\n      0             –"));
  EXPECT_EQ(text.find("\n      5 "), std::string::npos);
}

TEST(run_table, says_how_it_ended_and_what_changed) {
  RunRecord run = long_run();
  EXPECT_THAT(show_run(run, {}), Not(HasSubstr("rate")));
  run.best = BestWeights{.epoch = 37};
  run.joins = {20};
  run.ending = Ending::stopped_early;
  run.rate_changes = {{.epoch = 11, .before = 0.2, .after = 0.1}};
  EXPECT_THAT(show_run(run, {}), AllOf(HasSubstr("Resumed after epoch 20."),
                                       HasSubstr("From epoch 11 on the rate is 0.1, before 0.2."),
                                       HasSubstr("Stopped early: no loss was lower than that of "
                                                 "epoch 37. The weights are those of epoch 100.")));
  run.ends_with_best = true;
  EXPECT_THAT(show_run(run, {}), HasSubstr("epoch 37. The weights are those of epoch 37."));
  for (int more = 12; more < 20; ++more)
    run.rate_changes.push_back({.epoch = more, .before = 0.1, .after = 0.1 / more});
  EXPECT_THAT(show_run(run, {}), HasSubstr("The rate was 0.2, and from an epoch on: 11: 0.1, "
                                           "12: 0.0083333, 13: 0.0076923"));
  EXPECT_THAT(show_run(run, {}), HasSubstr("19: 0.0052632."));
  run.ending = Ending::diverged;
  EXPECT_THAT(show_run(run, {}), HasSubstr("the weights are those of epoch 37"));
  run.ending = Ending::asked;
  EXPECT_THAT(show_run(run, {}), HasSubstr("Stopped when asked to."));
}

TEST(run_table, has_steps_below_epochs_where_they_were_recorded) {
  RunRecord run{.epochs = {{.epoch = 0,
                            .train = Figures{.loss = 2, .accuracy = 0.25},
                            .validation = Figures{.loss = 3, .accuracy = 0.5}},
                           {.epoch = 1,
                            .updates = 30,
                            .running = Figures{.loss = 1.5, .accuracy = 0.375},
                            .train = Figures{.loss = 1, .accuracy = 0.75},
                            .validation = Figures{.loss = 2, .accuracy = 0.625}}},
                .steps = {{.step = 10, .epoch = 1, .minibatch = {.loss = 7, .accuracy = 0.125}},
                          {.step = 20, .epoch = 1, .minibatch = {.loss = 5, .accuracy = 0.875}}}};
  const std::string plain = show_run(run, {});
  EXPECT_THAT(plain,
              AllOf(HasSubstr("running loss  accuracy  train loss  accuracy  validation loss"),
                    HasSubstr("1.5     0.375           1      0.75                2     0.625"),
                    HasSubstr("step  epoch  minibatch loss  accuracy\n"),
                    HasSubstr("assessed before its step.")));
  EXPECT_THAT(plain, HasSubstr("10      1               7     0.125"));
  run.steps[1].watched = Figures{.loss = 4, .accuracy = 0.6};
  const std::string watched = show_run(run, {});
  EXPECT_THAT(watched,
              AllOf(HasSubstr("minibatch loss  accuracy  validation loss  accuracy"),
                    HasSubstr("20      1               5     0.875                4       0.6"),
                    Not(HasSubstr("0.125")), HasSubstr("the whole part after it")));
  EXPECT_LE(width_of(watched), page_width);
}

TEST(plan_table, has_a_row_for_each_part_and_fits_the_page) {
  const Plan narrow = Network(Shape{5}, "dense 8, tanh, dense 1", Random(1)).plan();
  EXPECT_THAT(show_plan(narrow, {}),
              AllOf(HasSubstr("hidden  dense 8  [unit 8]     weight 5×8, bias 8"),
                    HasSubstr("57 numbers are trained in total; an example takes 48 products")));
  const Plan wide =
      Network(Shape{8}, "residual(dense 8, tanh, dense 8, tanh), residual(dense 8), dense 4",
              Random(1))
          .plan();
  EXPECT_LE(width_of(show_plan(wide, {})), page_width);
  EXPECT_THAT(show_plan(wide, {}),
              AllOf(HasSubstr("\nresidual   residual of 4 layers  [unit 8]"),
                    HasSubstr("\n  hidden   dense 8               [unit 8]     weight 8×8")));
}

TEST(plan_table, tells_groups_that_are_alike_once_unless_they_are_to_be_opened) {
  const Plan deep =
      Network(Shape{8},
              "4 times (residual(dense 8, tanh)), residual(dense 6) with projection dense 6",
              Random(1))
          .plan();
  const std::string folded = show_plan(deep, {});
  EXPECT_THAT(folded, AllOf(HasSubstr("block             block of 1 layer      [unit 8]"),
                            HasSubstr("block2 to block4  3 times like block"),
                            HasSubstr(" 216       192\n"), Not(HasSubstr("block3"))));
  EXPECT_THAT(folded, HasSubstr("\n  projection      dense 6"));
  const Plan named =
      Network(Shape{8}, "residual(dense 6) with projection way: dense 6", Random(1)).plan();
  EXPECT_THAT(show_plan(named, {}), HasSubstr("\n  way     projection dense 6"));
  const std::string opened = show_plan(deep, {}, Groups::opened);
  EXPECT_THAT(opened, AllOf(HasSubstr("\nblock3 "), Not(HasSubstr("like"))));
}

TEST(depth_table, has_what_passed_through_each_part_and_fits_the_page) {
  const FlowMoment before{
      .epoch = 0,
      .layers = {
          {.layer = "block.residual.conv",
           .learns = true,
           .standard_deviation = 1.25,
           .gradient_norm = 1e-5,
           .weight_gradient_norm = 0.5},
          {.layer = "relu", .standard_deviation = 0.5, .gradient_norm = 0.1, .dead = 0.625}}};
  FlowMoment after = before;
  after.epoch = 8;
  after.layers[0].gradient_norm = 0.0;
  const std::string alone = show_layer_flow(before, before, {});
  EXPECT_THAT(alone, AllOf(HasSubstr("layer                std dev  ∂ norm  ∂ weights  dead"),
                           HasSubstr("block.residual.conv     1.25    1e−5        0.5        ▪\n"),
                           HasSubstr("62 %  ▪▪▪▪▪▪▪▪▪"), HasSubstr("State: before training.")));
  const std::string both = show_layer_flow(before, after, {});
  EXPECT_THAT(both, AllOf(HasSubstr("std dev now"), HasSubstr("∂ now"),
                          HasSubstr("before training, and now, after epoch 8")));
  EXPECT_LE(width_of(both), page_width);
}

TEST(data_table, has_columns_classes_and_first_rows) {
  const std::string text = show_data(demo_set("cracks", 50, 1), {});
  EXPECT_THAT(text,
              AllOf(HasSubstr("50 rows, 2 features"), HasSubstr("thickness  feature"),
                    HasSubstr("Classes of state"), HasSubstr("First rows"), HasSubstr("cracked")));
  EXPECT_THAT(show_data(demo_set("kiln"), {}), HasSubstr("temperature  target"));
}

TEST(judgements, stand_side_by_side_with_those_of_guessing) {
  Random random(1);
  const Split parts = scaled(split(demo_set("glazes", 200, 1), {}, random), ScalingKind::standard);
  const Network net(Shape{5}, "dense 4", Random(1));
  const NamedAssessments judged = {{"train", assess(net, parts.train)},
                                   {"test", assess(net, parts.test)}};
  const std::string text = show_figures(judged, {});
  EXPECT_THAT(text, AllOf(HasSubstr("gap"), HasSubstr("accuracy of a uniform guess"),
                          HasSubstr("1.3863"), HasSubstr("accuracy of always naming")));
  EXPECT_LE(width_of(text), page_width);
  const std::string classes = show_classes(*judged[1].second.classes, {});
  EXPECT_THAT(classes, AllOf(HasSubstr("true class  ash  celadon"), HasSubstr("precision")));
  EXPECT_THAT(show_classes(*judged[1].second.classes, {.colour = true}),
              AllOf(HasSubstr("\x1b[38;5;30m"), HasSubstr("\x1b[38;5;133m")));
}

/// Of one feature: a bowl above 0, below it the other kind.
Model model_of_bowls(const std::string& other) {
  Network net(Shape{1}, "dense 2", Random(1));
  net.set("output.weight", tensor({{1, -1}}));
  return {.network = net,
          .loss = Loss::cross_entropy,
          .columns = {{.name = "a"}},
          .target_names = {"kind"},
          .class_names = {"bowl", other}};
}

TEST(answers, have_probabilities_by_name) {
  const Model model = model_of_bowls("a jug with a very long name");
  const Tensor many = tensor({{2}, {-2}, {0}, {1}, {3}, {4}});
  EXPECT_THAT(show_answers(model, ask(model, many), {}),
              AllOf(HasSubstr("a jug with …"), HasSubstr("98.2 %"), HasSubstr("     0  bowl")));
}

TEST(answers, name_the_likeliest_where_there_are_too_many_classes_for_a_column_each) {
  Model model = model_of_bowls("jug");
  model.network = Network(Shape{1}, "dense 8", Random(1));
  model.network.set("output.weight", tensor({{0, 1, 5, 2, 0, 0, 0, 0}}));
  model.class_names = {"bowl", "jug", "plate", "tile", "cup", "pot", "lid", "dish"};
  Answers answers = ask(model, tensor({{1}, {1}, {1}, {1}, {1}, {-1}}));
  answers.names = {"a.png", "b.png", "c.png", "d.png", "e.png", "f.png"};
  // exp(5) beside exp(2), exp(1) and five ones: 163.5 in all.
  EXPECT_THAT(show_answers(model, answers, {}),
              AllOf(HasSubstr("a.png   plate  90.8 %  tile   4.5 %  jug    1.7 %"),
                    HasSubstr("f.png   bowl ")));
}

TEST(answers, of_a_few_records_are_bars) {
  Model model = model_of_bowls("jug");
  const auto bar = [](std::string_view letters, int count) {
    std::string text;
    for (int at = 0; at < count; ++at)
      text += letters;
    return text;
  };
  // A probability of 1/2 is half of 50 letters; that of 1 / (1 + exp(4)), 0.018, has 7 eighths.
  EXPECT_THAT(show_answers(model, ask(model, tensor({{0}, {2}})), {}),
              AllOf(HasSubstr("record 0  kind: bowl"), HasSubstr("record 1  kind: bowl"),
                    HasSubstr("jug       " + bar("█", 25) + " "), HasSubstr("50.0 %"),
                    HasSubstr("bowl      " + bar("█", 49) + "▏ "), HasSubstr("jug       ▉ "),
                    HasSubstr("1.8 %")));
  // Of many classes there are the likeliest, and no bar is longer than its room.
  model.network = Network(Shape{1}, "dense 30", Random(1));
  model.class_names.clear();
  for (int of = 0; of < 30; ++of)
    model.class_names.push_back(fmt::format("{} {}", bar("long", 12), of));
  const Answers answers = ask(model, tensor({{3}}));
  const std::string text = show_answers(model, answers, {});
  EXPECT_THAT(text, HasSubstr("(the 12 likeliest of 30 classes)"));
  EXPECT_EQ(std::ranges::count(text, '\n'), 14);
  EXPECT_LE(width_of(text), page_width);
  // Levels are no shares of anything.
  model.loss = Loss::mean_squared;
  EXPECT_THAT(show_answers(model, ask(model, tensor({{3}})), {}), Not(HasSubstr("█")));
  EXPECT_THAT(testing::said<SettingError>(
                  [&] { static_cast<void>(answers_chart("", model, ask(model, tensor({{3}})))); }),
              HasSubstr("whose outputs are levels"));
}

TEST(remarks, have_a_page_each) {
  std::set<std::string> pages;
  for (const auto& entry : std::filesystem::directory_iterator(LATTICE_SOURCE "/docs/remarks"))
    pages.insert(entry.path().stem().string());
  for (const std::string_view code : remark_codes())
    EXPECT_EQ(pages.erase(std::string(code)), 1U) << code;
  pages.erase("README");
  EXPECT_THAT(pages, ::testing::IsEmpty());
}

TEST(remarks, are_told_in_lines_of_a_page) {
  Remark remark{.code = "some-code", .text = "", .remedy = "z"};
  for (int word = 0; word < 40; ++word)
    remark.text += "pot ";
  const std::string text = show_remark(remark, {});
  EXPECT_LE(width_of(text), page_width);
  EXPECT_THAT(text, AllOf(HasSubstr("some-code: pot"), HasSubstr("  try: z")));
}

TEST(row_weights, are_shown_with_the_rows_and_in_what_guessing_gets) {
  Tensor by_turns = zeros(Shape{60});
  for (std::int64_t row = 0; row < 60; ++row)
    by_turns.set({row}, static_cast<double>((row + 1) % 3));
  const Dataset data = demo_set("glazes", 60, 1).with_row_weights(by_turns);
  EXPECT_THAT(show_data(data, {}), AllOf(HasSubstr("row_weights  row weight")));
  const Network net(Shape{5}, "dense 4", Random(3));
  const Assessment judged = assess(net, data);
  const std::string text = show_figures({{"all", judged}}, {.digits = 12});
  EXPECT_THAT(text, HasSubstr(format_number(judged.classes->commonest_accuracy, 12)));
}

TEST(show_data, takes_data_without_names) {
  const Dataset bare{.name = "",
                     .features = tensor({{1, 10}, {2, 20}, {3, 35}, {4, 41}}),
                     .classes = tensor({0, 2, 0, 1})};
  EXPECT_THAT(show_data(bare, {}), HasSubstr("\nclass 2       2     1"));
  const Dataset features_alone{.name = "", .features = tensor({{1, 2}, {3, 4}})};
  EXPECT_THAT(show_data(features_alone, {}), HasSubstr("feature 1"));
}

TEST(reports, are_what_is_printed_of_a_plan_a_run_and_an_assessment) {
  const Split parts{.train = demo_set("glazes", 60, 1)};
  Network net(Shape{5}, "dense 4", Random(1));
  const RunRecord run = train(net, parts, {.epochs = 1});
  EXPECT_EQ(fmt::format("{}", net.plan()), show_plan(net.plan(), {}));
  EXPECT_EQ(fmt::format("{}", run), show_run(run, {}));
  const Assessment judged = assess(net, parts.train);
  std::ostringstream stream;
  stream << judged;
  EXPECT_THAT(stream.str(), AllOf(HasSubstr("accuracy"), HasSubstr("tenmoku")));
}

}  // namespace
}  // namespace lattice
