#include "lattice/pictures/window_layers.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include "lattice/lattice.hpp"
#include "support/said.hpp"

namespace lattice {
namespace {

using ::testing::AllOf;
using ::testing::HasSubstr;
using testing::said;

TEST(layers_of_pictures, are_written_as_they_are_read) {
  for (const std::string text :
       {"conv 8 of 5x5", "conv 3 of 2x3 stride 2 padding 1", "conv 4 of 3x3 keeping size",
        "conv 3 of 3x3 from 0+1 1+2 0+2", "conv 6 of 1x1 from 2 at random",
        "conv 6 of 1x1 from 2 at random seed 9 without bias start he",
        "conv 2 of 3x3 bias start constant 0.1", "maximum 2", "maximum 3x3 stride 2",
        "average 2x3 stride 2 keeping size", "maximum all", "average all", "flatten",
        "dropout 0.2 of channels"}) {
    EXPECT_EQ(parse_blueprint(text).front().text(), text);
  }
  EXPECT_EQ(parse_blueprint("conv 8 of 5").front().text(), "conv 8 of 5x5");
  EXPECT_EQ(parse_blueprint("conv 8 of 5×3").front().text(), "conv 8 of 5x3");
}

TEST(layers_of_pictures, mark_the_word_that_cannot_be) {
  const std::vector<std::pair<std::string, std::string>> wrong = {
      {"conv of 3x3", "»of«"},
      {"conv 8 3x3", "»3x3«"},
      {"conv 8 of 3y3", "»3y3«"},
      {"conv 8 of 0x3", "»0x3«"},
      {"conv 8 of 3x3 stride 0", "»0«"},
      {"conv 8 of 3x3 padding 3", "»conv«"},
      {"conv 8 of 3x3 keeping", "'size' is missing"},
      {"conv 8 of 3x3 from", "which channels feed it"},
      {"conv 8 of 3x3 from 0+1 at random", "»0+1«"},
      {"conv 8 of 3x3 from 0 at random", "»0«"},
      {"conv 8 of 3x3 from 2 at", "'random' is missing"},
      {"maximum", "size of the window"},
      {"maximum 2 wide", "»wide«"},
      {"maximum 2 padding 2", "»maximum«"},
      {"dropout 0.2 of", "does not belong"},
      {"dropout 1 of channels", "»1«"},
      {"flatten 3", "does not belong"}};
  for (const auto& [text, layer] : wrong)
    EXPECT_THAT(said<SettingError>([&text = text] { (void)parse_blueprint(text); }),
                HasSubstr(layer))
        << text;
}

TEST(plan_of_pictures, walks_through_a_deep_list_without_making_a_weight) {
  const Shape photo = Shape{224, 224, 3}.with({Role::row, Role::column, Role::channel});
  const Plan deep = plan(photo, parse_blueprint("conv 64 of 3x3 keeping size, relu, maximum 2, "
                                                "conv 128 of 3x3 keeping size, relu, maximum 2, "
                                                "conv 256 of 3x3 stride 2 padding 1, relu, "
                                                "average all, dense 1000"));
  EXPECT_EQ(deep.rows[0].weights, 3 * 3 * 3 * 64 + 64);
  EXPECT_EQ(deep.rows[0].multiplications, 224 * 224 * 27 * 64);
  EXPECT_EQ(to_string(deep.rows[2].outputs), "[row 112 × column 112 × channel 64]");
  EXPECT_EQ(to_string(deep.rows[6].outputs), "[row 28 × column 28 × channel 256]");
  EXPECT_EQ(deep.rows[6].multiplications, 28 * 28 * 9 * 128 * 256);
  EXPECT_EQ(deep.rows[9].multiplications, 256 * 1000);
  const Plan small =
      plan(Shape{28, 28, 1}, parse_blueprint("conv 8 of 5x5, maximum 2, flatten, dense 10"));
  EXPECT_EQ(small.outputs(), Shape{10});
  EXPECT_EQ(small.weights(), 208 + 12 * 12 * 8 * 10 + 10);
}

TEST(dropout, of_channels_leaves_all_of_a_channel_out_or_nothing) {
  const Tensor pictures =
      ones(Shape{40, 3, 2, 5}.with({Role::example, Role::row, Role::column, Role::channel}));
  const Network net(pictures.shape().without_first_axis(), "dropout 0.25 of channels", Random(1));
  EXPECT_EQ(net(pictures), pictures);
  Random chance(4);
  Worksheet sheet;
  const Line x = sheet.given("x", pictures);
  const Tensor out = net.forward(sheet, x, Phase::training(chance)).value();
  double kept = 0.0;
  for (std::int64_t example = 0; example < 40; ++example) {
    for (std::int64_t channel = 0; channel < 5; ++channel) {
      const double first = out.at({example, 0, 0, channel});
      EXPECT_TRUE(first == 0.0 || first == 1.0 / 0.75);
      EXPECT_EQ(out.at({example, 2, 1, channel}), first);
      kept += first;
    }
  }
  EXPECT_NEAR(kept / 200, 1.0, 0.12);
  EXPECT_EQ(to_string(sheet.line("dropout.mask").shape()),
            "[example 40 × row 1 × column 1 × channel 5]");
  EXPECT_THAT(
      said<ShapeError>([] { return plan(Shape{5}, parse_blueprint("dropout 0.1 of channels")); }),
      HasSubstr("without 'of channels'"));
}

TEST(plan_of_pictures, says_what_does_not_fit_and_what_to_do) {
  const auto planned = [](const Shape& example, std::string_view text) {
    return said<ShapeError>([&] { (void)plan(example, parse_blueprint(text)); });
  };
  EXPECT_THAT(planned(Shape{12, 12, 1}, "dense 8"), HasSubstr("put flatten in front of it"));
  EXPECT_THAT(planned(Shape{12, 12, 1}, "conv 2 of 3x3, maximum 2, conv 2 of 6x6"),
              AllOf(HasSubstr("6 × 6"), HasSubstr("5 × 5"), HasSubstr("layer 3")));
  EXPECT_THAT(planned(Shape{5}, "conv 2 of 3x3"), HasSubstr("needs pictures"));
  EXPECT_THAT(planned(Shape{9, 9, 2}, "conv 2 of 3x3 from 0+2 1"), HasSubstr("channel 2"));
  EXPECT_THAT(planned(Shape{9, 9, 2}, "conv 3 of 3x3 from 0 1"), HasSubstr("3 groups"));
  EXPECT_THAT(planned(Shape{9, 9, 2}, "conv 2 of 3x3 from 3 at random"),
              HasSubstr("3 channels cannot be drawn from 2"));
}

TEST(connections, at_random_are_those_of_their_seed) {
  const Connections some = Connections::at_random(2, 5);
  const auto pairs = some.pairs(4, 6);
  EXPECT_EQ(pairs.size(), 12U);
  EXPECT_EQ(pairs, some.pairs(4, 6));
  EXPECT_NE(pairs, Connections::at_random(2, 6).pairs(4, 6));
  EXPECT_EQ(Connections::all().pairs(2, 3).size(), 6U);
}

TEST(network_of_pictures, has_gradients_that_agree_with_differences) {
  Random random(3);
  Network net(
      Shape{9, 8, 2},
      "conv 4 of 3x3 stride 2 padding 1, tanh, conv 3 of 2x2 keeping size from 2 at random, "
      "maximum 2, average 2x2 stride 1, flatten, dense 3",
      random);
  Worksheet sheet;
  const Line scores = net.forward(sheet, sheet.given("x", normal({3, 9, 8, 2}, 0, 1, random)),
                                  Phase::training(random));
  const Line loss = cross_entropy(scores, sheet.given("y", tensor({0, 2, 1})));
  EXPECT_TRUE(check_gradients(loss).agrees());
  EXPECT_EQ(sheet.line("conv2.table").shape(), (Shape{6, 2}));
}

TEST(network_of_pictures, labels_channels_as_classes_and_never_what_was_flattened) {
  Network whole(Shape{6, 6, 1}, "conv 3 of 3x3, average all", Random(1));
  whole.label_outputs(Role::class_);
  EXPECT_EQ(to_string(whole.outputs()), "[class 3]");
  Network flat(Shape{3, 3, 1}, "conv 4 of 3x3, flatten", Random(1));
  flat.label_outputs(Role::class_);
  EXPECT_EQ(to_string(flat.plan().rows[0].outputs), "[row 1 × column 1 × channel 4]");
}

}  // namespace
}  // namespace lattice
