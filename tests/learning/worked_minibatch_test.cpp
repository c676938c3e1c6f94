#include "lattice/learning/worked_minibatch.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include "lattice/core.hpp"
#include "support/explained.hpp"

namespace lattice {
namespace {

using ::testing::ElementsAre;
using ::testing::HasSubstr;

struct Lesson {
  Split raw;
  Split parts;
  Network network;
  TrainSettings settings;

  [[nodiscard]] WorkSettings work_settings() const {
    return {.over_rows = settings.over_rows,
            .l2 = settings.l2,
            .clip_norm = settings.clip_norm,
            .preparation = parts.data().preparation,
            .target_preparation = parts.data().target_preparation};
  }
};

Lesson lesson(const std::string& set, const std::string& blueprint) {
  Random random(2);
  const Split raw = split(demo_set(set, 100, 1), {}, random);
  Split parts = scaled(raw, ScalingKind::standard, ScalingKind::standard);
  const std::int64_t features = parts.data().feature_count();
  return {.raw = raw,
          .parts = parts,
          .network = Network(Shape{features}, blueprint, Random(4)),
          .settings = {.rule = Adam{.rate = 0.01, .weight_decay = 0.1}, .epochs = 2, .batch = 7}};
}

// Scaled on the sheet or before, worked or trained: the same bits, at every step.
TEST(worked_minibatch, is_a_step_of_training_to_the_last_bit) {
  for (const auto& [set, blueprint] :
       {std::pair("glazes", "dense 6, tanh, dropout 0.3, dense 4"),
        std::pair("glazes", "dense 6, relu, dense 4, softmax"),
        std::pair("cracks", "dense 6, tanh, dense 1"), std::pair("shrinkage", "dense 1")}) {
    Lesson l = lesson(set, blueprint);
    l.settings.l2 = 0.01;
    l.settings.clip_norm = 0.3;
    l.settings.over_rows = blueprint == std::string("dense 1") ? OverRows::sum : OverRows::mean;
    Network trained = l.network;
    Training run(trained, l.parts, l.settings);
    while (run.goes_on()) {
      const WorkedMinibatch example(trained, RowSet(l.raw.data(), run.upcoming().rows).all(),
                                    run.rule(), l.work_settings(), run.chance());
      run.step();
      for (const WorkedMinibatch::Update& update : example.updates())
        EXPECT_EQ(update.after, trained[update.weight]) << blueprint << update.weight;
    }
  }
}

TEST(worked_minibatch, explains_each_of_its_numbers_so_that_the_formula_gives_it_again) {
  for (const auto& [set, blueprint] :
       {std::pair("glazes", "dense 3, tanh, dense 4"),
        std::pair("cracks", "dense 3, elu 1, dense 1"),
        std::pair("shrinkage", "residual(dense 3, tanh), dense 1")}) {
    Lesson l = lesson(set, blueprint);
    l.settings.l2 = 0.1;
    const WorkedMinibatch example(l.network, l.raw.train.at(std::vector<std::int64_t>{3, 1, 4}),
                                  Momentum{.rate = 0.1}, l.work_settings());
    testing::expect_explained(example);
  }
}

TEST(worked_minibatch, has_scaling_loss_and_l2_term_on_its_sheet) {
  Lesson l = lesson("shrinkage", "dense 1");
  l.settings.l2 = 0.1;
  const WorkedMinibatch example(l.network, l.raw.train.at(std::vector<std::int64_t>{3, 1, 4}),
                                Descent{}, l.work_settings());
  std::vector<std::string> names;
  for (const Line& line : example.sheet().lines()) {
    if (line.has_name()) names.push_back(line.name());
  }
  EXPECT_THAT(names, ElementsAre("raw", "centre", "divisor", "x", "y_raw", "y_centre", "y_divisor",
                                 "y", "output.weight", "output.bias", "output", "e", "s", "m",
                                 "loss", "l2", "total"));
  EXPECT_EQ(example.loss().name(), "total");
  EXPECT_LT(example.loss_after(), example.loss_before());
  EXPECT_TRUE(example.check().agrees());
}

TEST(worked_minibatch, shows_probabilities_beside_a_cross_entropy) {
  const Lesson l = lesson("glazes", "dense 4, softmax");
  const WorkedMinibatch example(l.network, l.raw.train.at(std::vector<std::int64_t>{3, 1}),
                                Descent{}, l.work_settings());
  EXPECT_EQ(example.sheet().line("p").value(), softmax(example.sheet().line("output").value()));
  EXPECT_EQ(example.loss().name(), "loss");
}

TEST(worked_minibatch, tells_that_a_gradient_was_clipped) {
  Lesson l = lesson("glazes", "dense 4");
  l.settings.clip_norm = 0.01;
  const WorkedMinibatch example(l.network, l.raw.train.at(std::vector<std::int64_t>{3, 1}),
                                Descent{}, l.work_settings());
  EXPECT_LT(example.clip_factor(), 1.0);
  EXPECT_THAT(example.why({"output.weight", {0, 0}}, WorkedMinibatch::Ask::update).text(),
              HasSubstr("rate·(clip·∂output.weight[0,0])"));
}

TEST(worked_minibatch, refuses_questions_without_an_answer) {
  const Lesson l = lesson("shrinkage", "dense 1");
  const WorkedMinibatch example(l.network, l.raw.train.at(std::vector<std::int64_t>{0, 1}),
                                Descent{}, l.work_settings());
  using Ask = WorkedMinibatch::Ask;
  EXPECT_THROW(static_cast<void>(example.why({"q", {}}, Ask::value)), NameError);
  EXPECT_THROW(static_cast<void>(example.why({"output.weight", {3, 0}}, Ask::value)), IndexError);
  EXPECT_THROW(static_cast<void>(example.why({"output.weight", {3, 0}}, Ask::update)), IndexError);
  EXPECT_THROW(static_cast<void>(example.why({"x", {0, 0}}, Ask::gradient)), NameError);
  EXPECT_THROW(static_cast<void>(example.why({"output", {0, 0}}, Ask::update)), NameError);
}

}  // namespace
}  // namespace lattice
