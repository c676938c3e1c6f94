#include "lattice/learning/look_through.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <cmath>

#include "lattice/core.hpp"
#include "support/pictures.hpp"

namespace lattice {
namespace {

using ::testing::ElementsAre;
using ::testing::HasSubstr;

const LayerFlow& part_of(const std::vector<LayerFlow>& layers, std::string_view name) {
  return *std::ranges::find(layers, name, &LayerFlow::layer);
}

std::vector<std::string> codes_of(const std::vector<Remark>& remarks) {
  std::vector<std::string> codes;
  for (const Remark& remark : remarks)
    codes.push_back(remark.code);
  return codes;
}

TEST(look_through, measures_what_each_part_gives_and_what_comes_back) {
  const Dataset glazes = demo_set("glazes", 50, 1);
  const Network net(Shape{5}, "dense 8, relu, dense 4", Random(3));
  const std::vector<LayerFlow> layers = look_through(net, Loss::cross_entropy, glazes);
  ASSERT_EQ(layers.size(), 3U);

  Worksheet sheet;
  const Line x = sheet.given("x", RowSet(glazes).features());
  const Line hidden =
      dense(x, sheet.weight("W", net["hidden.weight"]), sheet.weight("b", net["hidden.bias"]));
  const Line h = relu(hidden);
  const Line scores =
      dense(h, sheet.weight("V", net["output.weight"]), sheet.weight("c", net["output.bias"]));
  ReverseSweep sweep(cross_entropy(scores, sheet.given("y", glazes.classes)));
  while (sweep.next()) {
    if (sweep.step().line != hidden) continue;
    EXPECT_NEAR(layers[0].gradient_norm, std::sqrt(sum(square(sweep.step().gradient)).number()),
                1e-12);
  }
  EXPECT_EQ(layers[0].layer, "hidden");
  EXPECT_TRUE(layers[0].learns);
  const Tensor z = hidden.value();
  EXPECT_NEAR(layers[0].standard_deviation, std::sqrt(mean(square(z - mean(z))).number()), 1e-9);
  const double squares = sum(square(sweep.gradient(sheet.line("W")))).number() +
                         sum(square(sweep.gradient(sheet.line("b")))).number();
  EXPECT_NEAR(layers[0].weight_gradient_norm, std::sqrt(squares), 1e-12);
  EXPECT_FALSE(layers[1].learns);
  EXPECT_EQ(layers[1].weight_gradient_norm, 0.0);
}

TEST(look_through, says_how_many_units_give_nothing) {
  const Dataset glazes = demo_set("glazes", 50, 1);
  Network net(Shape{5}, "dense 4, relu, dense 4", Random(3));
  net.set("hidden.bias", tensor({-1e6, -1e6, -1e6, 1e6}));
  const std::vector<LayerFlow> layers = look_through(net, Loss::cross_entropy, glazes);
  EXPECT_EQ(part_of(layers, "relu").dead, 0.75);
  EXPECT_EQ(part_of(layers, "hidden").dead, 0.0);
  const std::vector<Remark> remarks = remarks_on(layers, "at the end");
  EXPECT_THAT(codes_of(remarks), ElementsAre("dead-units"));
  EXPECT_THAT(remarks[0].text, HasSubstr("at the end, 75 % of the units of relu"));
}

TEST(depth, is_recorded_epoch_by_epoch_where_that_is_asked_for) {
  Random random(1);
  const Split parts = split(demo_set("glazes", 100, 1), {}, random);
  const auto epochs_of = [&](std::int64_t every) {
    Network net(Shape{5}, "dense 4, tanh, dense 4", Random(3));
    std::vector<std::int64_t> epochs;
    for (const FlowMoment& moment : train(net, parts, {.epochs = 7, .flow_every = every}).flow)
      epochs.push_back(moment.epoch);
    return epochs;
  };
  EXPECT_THAT(epochs_of(0), ElementsAre());
  EXPECT_THAT(epochs_of(3), ElementsAre(0, 3, 6, 7));
  // Looking changes nothing.
  Network looked(Shape{5}, "dense 4, dropout 0.3, dense 4", Random(3));
  Network not_looked = looked;
  static_cast<void>(train(looked, parts, {.epochs = 3, .flow_every = 1}));
  static_cast<void>(train(not_looked, parts, {.epochs = 3}));
  EXPECT_EQ(looked["output.weight"], not_looked["output.weight"]);
}

TEST(remarks_on_flow, name_the_part_where_a_gradient_vanishes_or_explodes) {
  const Dataset measured = testing::bars(20);
  const Dataset bars =
      measured.prepared_by(fit({{.by = ScaledBy::channel}}, measured.features.all()));
  const auto remarks_with = [&](const std::string& start) {
    const Network net(bars.example(),
                      "flatten, 9 times (dense 12 start " + start + ", tanh), dense 2", Random(3));
    return remarks_on(look_through(net, Loss::cross_entropy, bars), "before training");
  };
  const std::vector<Remark> small = remarks_with("normal 0.1");
  EXPECT_THAT(codes_of(small), ElementsAre("gradient-vanishes"));
  EXPECT_THAT(small[0].text, ::testing::AllOf(HasSubstr("before training, the gradient vanishes"),
                                              HasSubstr(" at block.hidden")));
  EXPECT_THAT(codes_of(remarks_with("xavier")), ElementsAre());
  std::vector<LayerFlow> flows = {{.layer = "a", .learns = true, .gradient_norm = 500.0},
                                  {.layer = "between", .gradient_norm = 1e9},
                                  {.layer = "b", .learns = true, .gradient_norm = 30.0},
                                  {.layer = "c", .learns = true, .gradient_norm = 4.0},
                                  {.layer = "d", .learns = true, .gradient_norm = 1.0}};
  const std::vector<Remark> large = remarks_on(flows, "at the end");
  EXPECT_THAT(codes_of(large), ElementsAre("gradient-explodes"));
  EXPECT_THAT(large[0].text,
              HasSubstr("its norm is 1 at d, 30 at b, where that begins, and 500 at a"));
  flows[0].gradient_norm = 99.0;
  EXPECT_TRUE(remarks_on(flows, "at the end").empty());
}

TEST(remarks_on_normalising, notice_minibatches_of_one_and_figures_that_hardly_moved) {
  const Network flat(Shape{5}, "dense 4, normalise, tanh, dense 4", Random(3));
  RunRecord run{.epochs = {{.running = Figures{.loss = 0.5}, .train = Figures{.loss = 0.6}}},
                .updates = 100};
  const auto codes = [&](const Network& net, std::int64_t batch, std::int64_t rows) {
    return codes_of(remarks_on(net, {.batch = batch}, rows, run));
  };
  EXPECT_THAT(codes(flat, 16, 32), ElementsAre());
  EXPECT_THAT(codes(flat, 16, 33), ElementsAre("minibatch-of-one"));
  EXPECT_THAT(codes(flat, 1, 30), ElementsAre("minibatch-of-one"));
  const Network each(Shape{5}, "dense 4, normalise each example, dense 4", Random(3));
  EXPECT_THAT(codes(each, 1, 30), ElementsAre());

  run.updates = 20;
  const std::vector<Remark> young = remarks_on(flat, {.batch = 16}, 32, run);
  EXPECT_THAT(codes_of(young), ElementsAre("running-statistics"));
  EXPECT_THAT(young[0].text, HasSubstr("12 % of the running mean and variance of normalise"));
  run.updates = 0;
  EXPECT_THAT(remarks_on(flat, {.batch = 16}, 32, run)[0].text, HasSubstr("100 %"));

  run.updates = 100;
  run.epochs.back().train->loss = 1.2;
  EXPECT_THAT(codes(flat, 16, 32), ElementsAre("train-and-use-apart"));
  EXPECT_THAT(codes(each, 16, 32), ElementsAre());
}

TEST(look_through, calls_no_unit_dead_that_gets_a_gradient) {
  const Dataset glazes = demo_set("glazes", 50, 1);
  // A start of zeros gives 0 everywhere, and learns all the same.
  const auto dead = [&](const char* blueprint, const char* layer) {
    const Network net(Shape{5}, blueprint, Random(3));
    const std::vector<LayerFlow> layers = look_through(net, Loss::cross_entropy, glazes);
    return part_of(layers, layer).dead;
  };
  EXPECT_EQ(dead("dense 4 start zeros", "output"), 0.0);
  EXPECT_EQ(dead("dense 8, tanh, dense 4 start zeros", "output"), 0.0);
  EXPECT_EQ(dead("dense 4 start zeros, tanh, dense 4", "hidden"), 0.0);
  EXPECT_EQ(dead("dense 4 start zeros, tanh, dense 4", "tanh"), 0.0);
  // What comes from the data gets no gradient, and has none to lose.
  const Dataset below =
      dataset_of_classes(glazes.features.all() - 1e4, glazes.classes, {.name = "below"});
  const Network first(Shape{5}, "relu, dense 4", Random(3));
  EXPECT_EQ(part_of(look_through(first, Loss::cross_entropy, below), "relu").dead, 0.0);
  // Zeros behind zeros get none.
  EXPECT_EQ(dead("dense 4 start zeros, tanh, dense 4 start zeros", "tanh"), 1.0);
  for (const DemoSet& set : demo_sets()) {
    const Dataset data = demo_set(set.name, 40, 1);
    const std::int64_t outputs = data.has_classes() ? data.class_count() : 1;
    const Network net(
        data.example(),
        fmt::format("{}dense {} start zeros", data.is_table() ? "" : "flatten, ", outputs),
        Random(1));
    EXPECT_THAT(codes_of(remarks_on(look_through(net, usual_loss(net, data), data), "at first")),
                ::testing::Not(::testing::Contains("dead-units")))
        << set.name;
  }
}

}  // namespace
}  // namespace lattice
