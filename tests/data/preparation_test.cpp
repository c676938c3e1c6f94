#include "lattice/data/preparation.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <cmath>

#include "lattice/core.hpp"
#include "support/pictures.hpp"
#include "support/said.hpp"

namespace lattice {
namespace {

using ::testing::ElementsAre;
using ::testing::HasSubstr;

const ScalingSettings by_number = {};
const ScalingSettings by_channel = {.by = ScaledBy::channel};
const ScalingSettings as_a_whole = {.kind = ScalingKind::min_max, .by = ScaledBy::whole};

TEST(preparation, has_factors_for_each_number_for_each_channel_or_for_all) {
  const Tensor pictures = testing::bars(50).features;
  EXPECT_EQ(fit({by_number}, pictures).steps[0].centre.shape(), (Shape{4, 5, 2}));
  EXPECT_EQ(fit({by_channel}, pictures).steps[0].centre.shape(), Shape{2});
  EXPECT_EQ(fit({as_a_whole}, pictures).steps[0].centre.shape(), Shape{});
}

TEST(preparation, brings_each_channel_to_mean_0_and_spread_1) {
  const Tensor pictures = testing::bars(50).features;
  const Tensor prepared = fit({by_channel}, pictures).prepared(pictures);
  const Along over = {.axes = {0, 1, 2}};
  for (const double each : mean(prepared, over).numbers())
    EXPECT_NEAR(each, 0.0, 1e-12);
  for (const double each : variance(prepared, over).numbers())
    EXPECT_NEAR(each, 1.0, 1e-12);
}

TEST(preparation, brings_all_numbers_together_from_0_to_1) {
  const Tensor pictures = testing::bars(20).features;
  const Tensor prepared = fit({as_a_whole}, pictures).prepared(pictures);
  EXPECT_EQ(min(prepared).number(), 0.0);
  EXPECT_EQ(max(prepared).number(), 1.0);
  EXPECT_EQ(argmax(prepared.reshaped({pictures.count()})),
            argmax(pictures.reshaped({pictures.count()})));
}

TEST(preparation, fits_each_step_on_what_the_steps_before_it_made) {
  const Tensor pictures = testing::bars(30).features;
  const Preparation both = fit({as_a_whole, by_channel}, pictures);
  ASSERT_EQ(both.steps.size(), 2U);
  const Preparation first = fit({as_a_whole}, pictures);
  EXPECT_EQ(both.steps[0], first.steps[0]);
  EXPECT_EQ(both.steps[1], fit({by_channel}, first.prepared(pictures)).steps[0]);
  const Tensor back = both.raw(both.prepared(pictures));
  EXPECT_LT(distance(back, pictures).largest, 1e-12);
}

TEST(preparation, gives_the_same_factors_whatever_comes_at_a_time) {
  const Dataset bars = testing::bars(33);
  const Preparation at_once = fit({as_a_whole, by_channel}, bars.features);
  for (const std::int64_t chunk : {1, 2, 7, 32}) {
    const EachRows in_chunks = [&](const std::function<void(const Tensor&)>& meet) {
      for (std::int64_t from = 0; from < bars.rows(); from += chunk)
        meet(RowSet(bars).from(from, std::min(chunk, bars.rows() - from)).features);
    };
    EXPECT_EQ(fit({as_a_whole, by_channel}, in_chunks), at_once) << chunk;
  }
}

TEST(preparation, is_written_in_words_and_read_again) {
  for (const ScalingKind kind : {ScalingKind::standard, ScalingKind::min_max}) {
    for (const ScaledBy by : {ScaledBy::number, ScaledBy::channel, ScaledBy::whole}) {
      const ScalingSettings settings{kind, by};
      EXPECT_EQ(parse_scaling(text(settings)), settings) << text(settings);
    }
  }
  EXPECT_EQ(text(by_channel), "standard by channel");
  EXPECT_EQ(parse_scaling("none").kind, ScalingKind::none);
  EXPECT_THROW(static_cast<void>(parse_scaling("none by channel")), SettingError);
}

TEST(preparation, refuses_examples_that_it_was_not_fitted_on) {
  const auto said = [](const std::function<void()>& act) {
    return testing::said<ShapeError>([&] { act(); });
  };
  const Tensor table = tensor({{1, 2}, {3, 4}}).with({Role::example, Role::feature});
  EXPECT_THAT(said([&] { static_cast<void>(fit({by_channel}, table)); }),
              HasSubstr("scaling by channel needs channels"));
  const Preparation of_pictures = fit({by_number}, testing::bars(5).features);
  EXPECT_THAT(said([&] { static_cast<void>(of_pictures.prepared(table)); }),
              HasSubstr("expected: [row 4 × column 5 × channel 2]"));
  const Preparation of_channels = fit({by_channel}, testing::bars(5, 3).features);
  EXPECT_THAT(said([&] { static_cast<void>(of_channels.prepared(testing::bars(5, 2).features)); }),
              HasSubstr("other features"));
}

TEST(preparation, leaves_what_never_changes_at_0) {
  const Tensor constant = lattice::constant(testing::bars(2).features.shape(), 7.5)
                              .with({Role::example, Role::row, Role::column, Role::channel});
  EXPECT_THAT(fit({by_channel}, constant).prepared(constant).numbers(), ::testing::Each(0.0));
}

TEST(preparation, by_known_numbers_fits_nothing) {
  const ScalingSettings settings = parse_scaling("less 127.5 over 127.5");
  EXPECT_EQ(settings.kind, ScalingKind::known);
  EXPECT_EQ(text(settings), "less 127.5 over 127.5");
  EXPECT_EQ(parse_scaling(text(settings)), settings);
  const Preparation one = fit({settings}, tensor({{0, 255}, {127.5, 51}}));
  EXPECT_EQ(one.prepared(tensor({{0, 255}})).numbers(), (std::vector<double>{-1, 1}));
  EXPECT_EQ(one, fit({settings}, tensor({{3, 4}})));
  EXPECT_EQ(one.raw(tensor({{-1, 1}})).numbers(), (std::vector<double>{0, 255}));
  EXPECT_EQ(parse_scaling("over 255").less, 0.0);
  EXPECT_EQ(parse_scaling("less -3").less, -3.0);
  EXPECT_EQ(parse_scaling("less -3").over, 1.0);
  for (const char* const wrong : {"less", "less x", "over 0", "over 2 less 1", "less 1 over",
                                  "less 1 over 2 by channel", "less inf", "over 1e999"})
    EXPECT_THROW(static_cast<void>(parse_scaling(wrong)), SettingError) << wrong;
}

}  // namespace
}  // namespace lattice
