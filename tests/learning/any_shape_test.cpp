#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include "lattice/core.hpp"
#include "support/bars.hpp"
#include "support/said.hpp"

// Pictures go through everything that tables go through; so do running statistics.
namespace lattice {
namespace {

using ::testing::AllOf;
using testing::bars_in_parts;
using ::testing::HasSubstr;
using testing::net_for;

TEST(pictures, are_learnt_and_judged) {
  const Split bars = bars_in_parts();
  Network net = net_for(bars.data());
  EXPECT_EQ(to_string(net["centred.mean"].shape()), "[row 4 × column 5 × channel 2]");
  const RunRecord run =
      train(net, bars, {.rule = Adam{.rate = 0.02}, .epochs = 30, .batch = 12, .keep_best = true});
  EXPECT_GE(assess(net, bars.test).classes->accuracy, 0.9);
  EXPECT_LT(run.epochs.back().train->loss, 0.2);
  EXPECT_GT(max(abs(net["centred.mean"])).number(), 0.0);
}

TEST(pictures, that_meet_a_part_for_rows_are_an_error_that_names_it) {
  const Dataset bars = testing::bars(4);
  EXPECT_THAT(
      testing::said<ShapeError>([&] { const Network net(bars.example(), "dense 2", Random(1)); }),
      AllOf(HasSubstr("layer 1, dense 2"), HasSubstr("[row 4 × column 5 × channel 2]")));
  const Network for_tables(Shape{5}, "dense 2", Random(1));
  EXPECT_THROW(static_cast<void>(assess(for_tables, bars)), ShapeError);
}

// Prepared on the sheet or before, worked or trained: the same bits, at every step.
TEST(pictures, are_worked_as_they_are_trained) {
  const Split bars = bars_in_parts();
  Network net = net_for(bars.data());
  Training run(net, bars, {.rule = Momentum{.rate = 0.05}, .epochs = 1, .batch = 20, .l2 = 0.01});
  const RowSet measured = bars.data().as_measured();
  while (run.goes_on()) {
    const WorkedMinibatch work(net, measured.at(run.upcoming().rows), run.rule(),
                               {.l2 = 0.01, .preparation = bars.data().preparation}, run.chance());
    run.step();
    EXPECT_EQ(work.updates().size(), net.weights().size());
    for (const WorkedMinibatch::Update& update : work.updates())
      EXPECT_EQ(update.after, net[update.weight]) << update.weight;
    const Explanation kept = work.why({"centred.mean", {1, 2, 0}}, WorkedMinibatch::Ask::update);
    EXPECT_EQ(kept.subject, "new centred.mean[1,2,0]");
    EXPECT_DOUBLE_EQ(kept.formula.evaluate(), net["centred.mean"].at({1, 2, 0}));
  }
}

/// Rows that are mixed as a matrix beside the features says.
struct Mixed {
  [[nodiscard]] static std::string_view kind() { return "mixed"; }
  [[nodiscard]] static std::string text() { return "mixed"; }
  [[nodiscard]] static Shape shape(const Shape& example) { return example; }
  [[nodiscard]] static std::vector<WeightNeed> weights(const Shape&) { return {}; }
  [[nodiscard]] static Line forward(const Line& x, Pass& pass) {
    return matmul(pass.side("mix"), x);
  }
};

TEST(side_inputs, reach_a_part_by_name_wherever_it_is_carried_out) {
  Dataset glazes = demo_set("glazes", 21, 1);
  Network net(Shape{5}, {Mixed{}, Dense{.outputs = 4}}, Random(2));
  EXPECT_THAT(testing::said<NameError>([&] { return assess(net, glazes); }),
              HasSubstr("mixed needs the side input 'mix'"));
  glazes.side.push_back({.name = "mix", .value = identity(21)});
  const Split all{.train = glazes.prepared_by(fit({{}}, glazes.features))};
  Network plain(Shape{5}, {Dense{.outputs = 4}}, Random(2));
  net.set("output.weight", plain["output.weight"]);
  const TrainSettings settings{.rule = Descent{.rate = 0.1}, .epochs = 2, .batch = 21, .chunk = 4};
  EXPECT_EQ(train(net, all, settings).epochs.back().train->loss,
            train(plain, all, settings).epochs.back().train->loss);
  EXPECT_EQ(net["output.weight"], plain["output.weight"]);
  const WorkedMinibatch work(net, all.train.all(), Descent{});
  EXPECT_EQ(work.sheet().line("mix").kind(), Line::Kind::given);
  EXPECT_TRUE(work.check().agrees());
}

TEST(running_statistic, of_the_best_epoch_comes_back_with_the_best_weights) {
  const Split bars = bars_in_parts();
  Network net = net_for(bars.data());
  const RunRecord run =
      train(net, bars, {.rule = Descent{.rate = 3.0}, .epochs = 6, .batch = 16, .keep_best = true});
  ASSERT_LT(run.best->epoch, 6);
  EXPECT_EQ(net["centred.mean"], run.best->weights["centred.mean"]);
  EXPECT_NE(net["centred.mean"], run.state->weights["centred.mean"]);
}

}  // namespace
}  // namespace lattice
