#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include "lattice/lattice.hpp"
#include "support/explained.hpp"
#include "support/pictures.hpp"
#include "support/runs.hpp"
#include "support/said.hpp"

// Deep networks of pictures: groups, residual blocks, what passes through them, worked minibatches
// and resumed runs.
namespace lattice {
namespace {

using ::testing::AllOf;
using ::testing::ElementsAre;
using testing::expect_same;
using ::testing::HasSubstr;
using testing::said;

Tensor some_pictures() {
  Random random(5);
  return normal(Shape{3, 6, 6, 2}.with({Role::example, Role::row, Role::column, Role::channel}), 0,
                1, random);
}

Shape shape_of(const Tensor& examples) {
  return examples.shape().without_first_axis();
}

TEST(group, says_at_which_part_inside_it_does_not_fit) {
  const std::string text = "dense 4, 2 times (tanh, (dense 3, conv 2 of 3x3))";
  EXPECT_THAT(said<ShapeError>([&] { (void)plan(Shape{4}, parse_blueprint(text)); }),
              HasSubstr("layer 2, block, at block: conv, conv 2 of 3x3"));
}

TEST(residual, that_does_not_fit_says_what_would) {
  const Tensor pictures = some_pictures();
  const auto refused = [](const Shape& example, const std::string& text) {
    return said<ShapeError>([&] { (void)plan(example, parse_blueprint(text)); });
  };
  const std::string halved = "residual(conv 4 of 3x3 stride 2 padding 1)";
  EXPECT_THAT(refused(shape_of(pictures), halved),
              AllOf(HasSubstr("[row 3 × column 3 × channel 4], as what goes through"),
                    HasSubstr("with projection conv 4 of 1x1 stride 2")));
  EXPECT_NO_THROW((void)plan(shape_of(pictures),
                             parse_blueprint(halved + " with projection conv 4 of 1x1 stride 2")));
  EXPECT_THAT(refused(shape_of(pictures), halved + " with projection conv 3 of 1x1 stride 2"),
              HasSubstr("[row 3 × column 3 × channel 3]"));
  EXPECT_THAT(refused(shape_of(pictures), halved + " with projection conv 3 of 9x9"),
              HasSubstr("at projection, conv 3 of 9x9"));
  EXPECT_THAT(refused(shape_of(pictures), "residual(conv 4 of 3x2)"),
              HasSubstr("with projection to [row 4 × column 5 × channel 4]"));
}

TEST(groups, of_every_kind_have_gradients_that_agree_with_differences) {
  for (const char* blueprint :
       {"2 times (conv 2 of 3x3 keeping size, normalise, tanh), average all, dense 2",
        "2 times (residual(normalise, tanh, conv 2 of 3x3 keeping size)), flatten, dense 2",
        "residual(conv 3 of 3x3 stride 2 padding 1, normalise) with projection (conv 3 of 1x1 "
        "stride 2, "
        "normalise), tanh, average all, dense 2"}) {
    const Tensor pictures = some_pictures();
    const Network net(shape_of(pictures), blueprint, Random(3));
    Random chance(4);
    Worksheet sheet;
    const Line y = net.forward(sheet, sheet.given("x", pictures), Phase::training(chance));
    EXPECT_TRUE(check_gradients(sum(square(y))).agrees()) << blueprint;
  }
}

// What a plan says of memory is what a pass leaves there, line by line.
TEST(plan, counts_the_numbers_that_an_example_leaves_on_the_worksheet) {
  const Tensor pictures = some_pictures();
  for (const std::string text :
       {"conv 2 of 3x3, relu, maximum 2, flatten, dense 3, tanh, dense 2 with bias as input",
        "contrast 3, contrast 3 subtractive, contrast 5 divisive, average all, softmax",
        "2 times (residual(normalise, conv 2 of 3x3 keeping size, dropout 0.1) with projection "
        "conv 2 of 1x1)",
        "normalise each example, dropout 0.5 of channels, average 2, maximum all, dense 2"}) {
    const Network net(shape_of(pictures), text, Random(3));
    Random chance(4);
    Worksheet sheet;
    static_cast<void>(net.forward(sheet, sheet.given("x", pictures), Phase::training(chance)));
    std::int64_t numbers = 0;
    for (const Line& line : sheet.lines()) {
      const Shape& shape = line.shape();
      const bool is_by_example =
          shape.rank() > 0 && shape[0] == pictures.shape()[0] && shape.role(0) == Role::example;
      if (is_by_example) numbers += shape.count() / shape[0];
    }
    EXPECT_EQ(net.plan().written(), numbers) << text;
  }
}

TEST(look_through, goes_into_groups_and_residual_blocks) {
  const Dataset bars = testing::bars(20);
  const Network net(
      bars.example(),
      "2 times (conv 2 of 3x3 keeping size, relu), "
      "residual(conv 3 of 3x3 keeping size) with projection conv 3 of 1x1, average all, dense 2",
      Random(3));
  std::vector<std::string> names;
  for (const LayerFlow& layer : look_through(net, Loss::cross_entropy, bars))
    names.push_back(layer.layer);
  EXPECT_THAT(names, ElementsAre("block.conv", "block", "block2.conv", "block2", "residual.conv",
                                 "residual.projection", "residual", "average", "output"));
}

TEST(look_through, of_a_worked_minibatch_is_that_of_its_numbers) {
  const Dataset bars = testing::bars(12);
  const Network net(bars.example(), "conv 2 of 3x3, relu, average all, dense 2", Random(4));
  const WorkedMinibatch work(net, RowSet(bars).all(), Descent{});
  const std::vector<LayerFlow> worked = look_through(work, net.plan());
  const std::vector<LayerFlow> looked = look_through(net, Loss::cross_entropy, bars);
  ASSERT_EQ(worked.size(), looked.size());
  for (std::size_t at = 0; at < worked.size(); ++at) {
    EXPECT_EQ(worked[at].layer, looked[at].layer);
    EXPECT_NEAR(worked[at].gradient_norm, looked[at].gradient_norm, 1e-12);
    EXPECT_NEAR(worked[at].weight_gradient_norm, looked[at].weight_gradient_norm, 1e-12);
    EXPECT_EQ(worked[at].standard_deviation, looked[at].standard_deviation);
  }
}

TEST(minibatch_of_one, is_no_trouble_where_each_channel_has_as_many_numbers_as_there_are_places) {
  const Network pictures(testing::bars(2).example(),
                         "conv 2 of 2x2, normalise, average all, dense 2", Random(3));
  const RunRecord run{.epochs = {{.running = Figures{.loss = 0.5}, .train = Figures{.loss = 0.6}}},
                      .updates = 100};
  EXPECT_THAT(remarks_on(pictures, {.batch = 1}, 30, run), ::testing::IsEmpty());
}

// Pictures that are moved about, normalised both ways, in residual blocks, with running statistics.
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
  testing::expect_explained(example);
  EXPECT_TRUE(example.check().agrees());
  EXPECT_NO_THROW(static_cast<void>(example.sheet().line("augmented")));
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
    EXPECT_EQ(example.batch().drawn, run.upcoming().drawn);
    run.step();
    for (const WorkedMinibatch::Update& update : example.updates())
      EXPECT_EQ(update.after, net[update.weight]) << update.weight;
  }
}

// Everything at once, and on any number of threads: 10 and 10 epochs with a stop are 20 without.
TEST(going_on, of_a_network_with_everything_in_it_is_as_if_the_run_had_never_ended) {
  const Dataset bars = testing::bars(60);
  Random random(2);
  const Split parts = prepared(split(bars, {}, random), {{.by = ScaledBy::channel}});
  const std::string blueprint =
      "conv 3 of 3x3 keeping size without bias, normalise, relu, "
      "2 times (residual(normalise, relu, conv 3 of 3x3 keeping size, dropout 0.1) with projection "
      "conv 3 of "
      "1x1 without l2), average all, dense 2";
  TrainSettings settings{
      .rule = Adam{.rate = 0.01, .weight_decay = 0.01},
      .epochs = 20,
      .batch = 7,
      .l2 = 0.001,
      .schedule = Schedule::on_stall(2, 0.5, {.least = 1e-4, .by = 0.01}).after_warm_up(3),
      .augmentation = parse_augmentation("shift 1 filled with 3, flip across, turn 9"),
      .ahead = 0};
  const Network start(bars.example(), blueprint, Random(3));
  Network whole = start;
  const RunRecord at_once = train(whole, parts, settings);
  settings.epochs = 10;
  for (const int threads : {1, 2, 4}) {
    SCOPED_TRACE(threads);
    const Threads allowed(threads);
    settings.ahead = threads - 1;
    Network halves = start;
    RunRecord run = train(halves, parts, settings);
    settings.seed = 99;  // The record has what the run draws from.
    go_on(halves, run, parts, settings);
    settings.seed = 1;
    expect_same(at_once, run);
    expect_same(whole.weights(), halves.weights());
  }
}

}  // namespace
}  // namespace lattice
