#include "lattice/learning/worked_answers.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include "lattice/core.hpp"
#include "support/said.hpp"

namespace lattice {
namespace {

using ::testing::HasSubstr;

/// A model that learnt a little from a demo set.
Model model_for(const std::string& set, const std::string& blueprint,
                std::optional<Loss> loss = std::nullopt, ScalingKind kind = ScalingKind::standard) {
  Random random(6);
  const Split parts = scaled(split(demo_set(set, 200, 1), {}, random), kind, kind);
  Network net(parts.data().example(), blueprint, Random(2));
  static_cast<void>(train(net, parts, {.rule = Adam{.rate = 0.02}, .epochs = 6, .loss = loss}));
  return model_of(net, loss.value_or(usual_loss(net, parts.data())), parts.train);
}

Batch record(const std::string& set, std::int64_t row) {
  return {.rows = {}, .features = demo_set(set, 200, 1).features.rows(std::vector{row})};
}

struct Case {
  std::string set;
  std::string blueprint;
  std::optional<Loss> loss = std::nullopt;
};

const std::vector<Case>& cases() {
  static const std::vector<Case> all = {
      {"glazes", "dense 6, tanh, dense 4"},
      {"glazes", "dense 6, tanh, dense 4, softmax", Loss::half_mean_squared},
      {"cracks", "dense 6, tanh, dense 1"},
      {"cracks", "dense 6, tanh, dense 2"},
      {"shrinkage", "dense 4, tanh, dropout 0.5, dense 1"}};
  return all;
}

TEST(worked_answers, are_what_the_model_answers) {
  for (const Case& each : cases()) {
    const Model model = model_for(each.set, each.blueprint, each.loss);
    for (const std::int64_t row : {0, 17, 150}) {
      const Batch asked = record(each.set, row);
      const Answers answers = ask(model, asked.features);
      const WorkedSheet work = work_answers(model, asked);
      const Tensor& answer = work.sheet().line("answer").value();
      const Tensor& expected = answers.numbers.empty() ? answers.classes : answers.numbers;
      EXPECT_LT(distance(answer, expected).largest, 1e-9) << each.blueprint;
      EXPECT_TRUE(work.updates().empty());
      EXPECT_FALSE(work.rule());
      EXPECT_FALSE(work.result_after());
      for (const Line& line : work.sheet().lines())
        EXPECT_NE(line.kind(), Line::Kind::weight) << line.name();
    }
  }
}

// What a record's numbers are changed by is asked of the model itself.
TEST(worked_answers, have_gradients_by_features_in_their_own_units) {
  for (const Case& each : cases()) {
    const Model model = model_for(each.set, each.blueprint, each.loss);
    const Batch asked = record(each.set, 9);
    const WorkedSheet work = work_answers(model, asked);
    const bool has_classes = !model.class_names.empty();
    const auto answer =
        static_cast<std::int64_t>(has_classes ? work.sheet().line("answer").value().number() : 0.0);
    const auto score = [&](const Tensor& features) {
      const Answers now = ask(model, features);
      if (!has_classes) return now.numbers.number();
      const bool is_single = now.scores.shape()[1] == 1;
      return is_single ? (answer == 1 ? 1.0 : -1.0) * now.scores.number()
                       : now.scores.at({0, answer});
    };
    EXPECT_NEAR(work.result_before(), score(asked.features), 1e-9) << each.blueprint;
    for (std::int64_t feature = 0; feature < asked.features.shape()[1]; ++feature) {
      const double move = 1e-5 * model.preparation.steps[0].divisor.at_offset(feature);
      Tensor more = asked.features;
      Tensor less = asked.features;
      more.set({0, feature}, more.at({0, feature}) + move);
      less.set({0, feature}, less.at({0, feature}) - move);
      const double slope = (score(more) - score(less)) / (2.0 * move);
      EXPECT_NEAR(work.sweep().gradient("raw").at({0, feature}), slope,
                  1e-6 * std::max(1.0, std::abs(slope)))
          << each.blueprint << feature;
    }
    EXPECT_TRUE(work.check().agrees()) << each.blueprint;
  }
}

TEST(worked_answers, of_several_rows_give_each_its_own_gradient_and_say_what_is_right) {
  const Model model = model_for("glazes", "dense 6, tanh, dense 4");
  const Dataset glazes = demo_set("glazes", 200, 1);
  const Batch rows = RowSet(glazes).at(std::vector<std::int64_t>{3, 40, 77});
  const WorkedSheet work = work_answers(model, rows);
  EXPECT_EQ(work.result().name(), "total");
  EXPECT_EQ(work.batch().rows, rows.rows);
  for (std::int64_t at = 0; at < 3; ++at) {
    const std::int64_t row = rows.rows[static_cast<std::size_t>(at)];
    const WorkedSheet alone = work_answers(model, record("glazes", row));
    for (std::int64_t feature = 0; feature < 5; ++feature)
      EXPECT_NEAR(work.sweep().gradient("raw").at({at, feature}),
                  alone.sweep().gradient("raw").at({0, feature}), 1e-12);
    const double answer = work.sheet().line("answer").value().at_offset(at);
    EXPECT_EQ(work.sheet().line("right").value().at_offset(at),
              answer == glazes.classes.at_offset(row) ? 1.0 : 0.0);
  }
  EXPECT_EQ(work.sheet().line("loss").section(), loss_section);
}

TEST(worked_answers, of_numbers_say_how_far_they_are_off) {
  const Model model = model_for("shrinkage", "dense 1");
  const WorkedSheet work =
      work_answers(model, RowSet(demo_set("shrinkage", 200, 1)).at(std::vector<std::int64_t>{5}));
  const double off =
      work.sheet().line("answer").value().number() - work.sheet().line("y_raw").value().number();
  EXPECT_EQ(work.sheet().line("off").value().number(), off);
}

TEST(worked_answers, start_from_another_class_where_that_is_asked_about) {
  for (const char* const blueprint : {"dense 6, tanh, dense 2", "dense 6, tanh, dense 1"}) {
    const Model model = model_for("cracks", blueprint);
    const Batch asked = record("cracks", 9);
    const WorkedSheet first = work_answers(model, asked, 0);
    const WorkedSheet second = work_answers(model, asked, 1);
    EXPECT_EQ(first.result().name(), "score");
    EXPECT_NE(first.result_before(), second.result_before());
    const auto answer = static_cast<std::int64_t>(first.sheet().line("answer").value().number());
    const WorkedSheet winning = work_answers(model, asked);
    EXPECT_EQ((answer == 0 ? first : second).sweep().gradient("raw"),
              winning.sweep().gradient("raw"));
    EXPECT_THAT(
        testing::said<IndexError>([&] { static_cast<void>(work_answers(model, asked, 2)); }),
        HasSubstr("there is no class 2"));
  }
}

TEST(influences, tell_the_nearest_value_with_which_the_answer_is_another_one) {
  int turns = 0;
  for (const ScalingKind kind : {ScalingKind::standard, ScalingKind::min_max, ScalingKind::none}) {
    const Model model = model_for("glazes", "dense 6, tanh, dense 4", std::nullopt, kind);
    const Batch asked = record("glazes", 21);
    const WorkedSheet work = work_answers(model, asked);
    const std::vector<Influence> all = influences(model, work);
    ASSERT_EQ(all.size(), 5U);
    for (std::size_t feature = 0; feature < all.size(); ++feature) {
      const Index at{0, static_cast<std::int64_t>(feature)};
      EXPECT_EQ(all[feature].value, asked.features.at(at));
      EXPECT_EQ(
          all[feature].slope,
          work.sweep().gradient(work.sheet().line(kind == ScalingKind::none ? "x" : "raw")).at(at));
      if (!all[feature].turn) continue;
      ++turns;
      const double turn = *all[feature].turn;
      const auto answer_at = [&](double value) {
        Tensor moved = asked.features;
        moved.set(at, value);
        return static_cast<std::int64_t>(ask(model, moved).classes.number());
      };
      const std::int64_t answer = answer_at(all[feature].value);
      EXPECT_NE(answer, *all[feature].becomes);
      EXPECT_EQ(answer_at(turn), *all[feature].becomes);
      // A little before it the answer is still the same.
      EXPECT_EQ(answer_at(turn - 1e-9 * (turn - all[feature].value)), answer);
      for (int step = 0; step < 20; ++step)
        EXPECT_EQ(answer_at(all[feature].value + (turn - all[feature].value) * step / 20.0),
                  answer);
    }
  }
  EXPECT_GT(turns, 4);
}

TEST(influences, are_told_of_one_record) {
  const Model model = model_for("glazes", "dense 4");
  const Batch two = RowSet(demo_set("glazes", 200, 1)).from(0, 2);
  EXPECT_THAT(testing::said<SettingError>(
                  [&] { static_cast<void>(influences(model, work_answers(model, two))); }),
              HasSubstr("one record of a table"));
  const Model numbers = model_for("shrinkage", "dense 1");
  for (const Influence& each : influences(numbers, work_answers(numbers, record("shrinkage", 3)))) {
    EXPECT_NE(each.slope, 0.0);
    EXPECT_FALSE(each.turn);
  }
}

}  // namespace
}  // namespace lattice
