#include "lattice/learning/worked_minibatch.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include "lattice/lattice.hpp"
#include "support/pictures.hpp"

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

/// Every value, gradient and update evaluates to its number.
void expect_explained(const WorkedMinibatch& example) {
  for (const Line& line : example.sheet().lines()) {
    for (std::int64_t offset = 0; offset < line.shape().count(); ++offset) {
      const Place place{line.name(), line.shape().index(offset)};
      const Explanation value = example.why(place, WorkedMinibatch::Ask::value);
      if (value.note.empty()) {
        EXPECT_NEAR(value.formula.evaluate(), line.value().at_offset(offset), 1e-10);
      }
      if (example.reverse_step_of(line) == nullptr || line == example.loss()) continue;
      const Explanation gradient = example.why(place, WorkedMinibatch::Ask::gradient);
      EXPECT_NEAR(gradient.formula.evaluate(), gradient.value, 1e-10);
    }
  }
  for (const WorkedMinibatch::Update& update : example.updates()) {
    const Explanation why = example.why({update.weight, Index::zeros(update.after.shape().rank())},
                                        WorkedMinibatch::Ask::update);
    EXPECT_EQ(why.value, update.after.at_offset(0));
    EXPECT_NEAR(why.formula.evaluate(), why.value, 1e-15);
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
    expect_explained(example);
  }
}

// Pictures that are moved about, normalised both ways, in residual blocks, with kept numbers.
TEST(worked_minibatch, explains_each_number_of_a_deep_network_of_moved_pictures) {
  const Dataset bars = testing::bars(12);
  const Network net(
      bars.example(),
      "conv 2 of 3x3 keeping size, normalise, residual(relu, conv 3 of 3x3 stride 2 "
      "padding 1, normalise each example) with projection conv 3 of 1x1 stride 2, tanh, "
      "dropout 0.2, average all, dense 2 without l2",
      Random(4));
  const WorkedMinibatch example(
      net, RowSet(bars).at(std::vector<std::int64_t>{3, 1, 4}), Momentum{.rate = 0.1},
      {.l2 = 0.1,
       .preparation = fit({{.by = ScaledBy::channel}}, bars.features.all()),
       .augmented = {.how = parse_augmentation("shift 1, flip across, turn 15, brightness 0.3")}});
  expect_explained(example);
  EXPECT_TRUE(example.check().agrees());
  EXPECT_NO_THROW(static_cast<void>(example.sheet().line("moved")));
}

TEST(worked_minibatch, of_moved_pictures_is_a_step_of_training_to_the_last_bit) {
  const Dataset bars = testing::bars(40);
  Random random(2);
  const Split raw = split(bars, {}, random);
  const Split parts = prepared(raw, {{.by = ScaledBy::channel}});
  Network net(bars.example(), "conv 2 of 3x3, normalise, relu, average all, dense 2", Random(4));
  Training run(net, parts,
               {.rule = Momentum{.rate = 0.05},
                .epochs = 3,
                .batch = 7,
                .augmentation = parse_augmentation("shift 1, flip across, turn 15, brightness 0.3"),
                .ahead = 2});
  const Preparation& scaling = parts.data().preparation;
  while (run.goes_on()) {
    const WorkedMinibatch example(net, RowSet(bars).at(run.upcoming().rows), run.rule(),
                                  {.preparation = scaling, .augmented = run.augmented()},
                                  run.chance());
    EXPECT_EQ(example.batch().moves, run.upcoming().moves);
    run.step();
    for (const WorkedMinibatch::Update& update : example.updates())
      EXPECT_EQ(update.after, net[update.weight]) << update.weight;
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
  EXPECT_THAT(names, ElementsAre("raw", "centre", "spread", "x", "y_raw", "y_centre", "y_spread",
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
