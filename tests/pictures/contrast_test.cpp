#include "lattice/pictures/contrast.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <cmath>

#include "lattice/lattice.hpp"
#include "support/pictures.hpp"
#include "support/said.hpp"

namespace lattice {
namespace {

using ::testing::HasSubstr;
using testing::said;

Tensor pictures_to_centre(Precision precision = Precision::double_) {
  Random random(5);
  return normal(Shape{3, 7, 9, 2}.with({Role::example, Role::row, Role::column, Role::channel}), 4,
                2, random, precision);
}

/// The mean around a place, number by number.
double mean_around_by_hand(const Tensor& x, std::int64_t example, std::int64_t row,
                           std::int64_t column, std::int64_t size) {
  const double deviation = static_cast<double>(size) / 6.0;
  double sum = 0.0;
  double weights = 0.0;
  for (std::int64_t r = 0; r < x.shape()[1]; ++r) {
    for (std::int64_t c = 0; c < x.shape()[2]; ++c) {
      if (std::abs(r - row) > size / 2 || std::abs(c - column) > size / 2) continue;
      const auto squared = static_cast<double>((r - row) * (r - row) + (c - column) * (c - column));
      const double weight = std::exp(-squared / (2.0 * deviation * deviation));
      for (std::int64_t channel = 0; channel < x.shape()[3]; ++channel) {
        sum += weight * x.at({example, r, c, channel});
        weights += weight;
      }
    }
  }
  return sum / weights;
}

TEST(mean_around, weighs_what_is_near_more_and_adds_up_to_1_at_the_border_too) {
  const Tensor x = pictures_to_centre();
  for (const std::int64_t size : {3, 5, 7}) {
    const Tensor means = mean_around(x, size);
    EXPECT_EQ(to_string(means.shape()), "[example 3 × row 7 × column 9 × channel 1]");
    for (std::int64_t row = 0; row < 7; ++row) {
      for (std::int64_t column = 0; column < 9; ++column) {
        EXPECT_NEAR(means.at({1, row, column, 0}), mean_around_by_hand(x, 1, row, column, size),
                    1e-12);
      }
    }
  }
  const Tensor flat = 3.5 * ones({1, 4, 4, 2});
  for (const double number : mean_around(flat, 3).numbers())
    EXPECT_NEAR(number, 3.5, 1e-12);
}

TEST(contrast, takes_level_and_spread_off_place_by_place) {
  const Tensor x = pictures_to_centre();
  const auto made = with_contrast(x, {.size = 5});
  const Tensor centred = x - mean_around(x, 5);
  EXPECT_EQ(with_contrast(x, {.size = 5, .kind = ContrastKind::subtractive}).result, centred);
  const Tensor deviation = sqrt(mean_around(centred * centred, 5) + 1e-8);
  const Tensor least = mean(deviation, {.axes = {1, 2}, .keep = true});
  for (const Index& at : {Index{0, 0, 0, 0}, Index{1, 3, 4, 1}, Index{2, 6, 8, 0}}) {
    const double divisor =
        std::max(deviation.at({at[0], at[1], at[2], 0}), least.at({at[0], 0, 0, 0}));
    EXPECT_NEAR(made.result.at(at), centred.at(at) / divisor, 1e-12);
  }
  // Brighter and harder pictures come out the same.
  const Tensor other = with_contrast(3.0 * x + 40.0, {.size = 5}).result;
  for (std::int64_t at = 0; at < other.count(); ++at)
    EXPECT_NEAR(other.at_offset(at), made.result.at_offset(at), 1e-7);
  // The level stays where only the deviation is divided by, and a plain picture is no trouble.
  const Tensor divided = with_contrast(x, {.size = 5, .kind = ContrastKind::divisive}).result;
  EXPECT_GT(mean(divided).number(), 0.5);
  for (const double number : with_contrast(7.0 * ones({1, 5, 5, 1}), {.size = 3}).result.numbers())
    EXPECT_NEAR(number, 0.0, 1e-9);
}

TEST(contrast, is_the_same_as_a_preparation_and_as_a_part_to_the_last_bit) {
  for (const Precision precision : {Precision::double_, Precision::single}) {
    const Tensor x = pictures_to_centre(precision);
    for (const char* text : {"contrast 5", "contrast 3 subtractive", "contrast 7 divisive",
                             "contrast 5 epsilon 0.5"}) {
      const Network net(x.shape().without_first_axis(), text, Random(1), precision);
      EXPECT_EQ(net.blueprint(), text);
      const ScalingSettings settings = parse_scaling(text);
      EXPECT_EQ(lattice::text(settings), text);
      EXPECT_EQ(fit({settings}, x).prepared(x), net(x)) << text;
    }
  }
}

TEST(contrast, is_on_the_worksheet_of_what_it_prepares) {
  const Dataset bars = testing::bars(12);
  const Preparation preparation =
      fit({parse_scaling("contrast 3"), parse_scaling("standard by channel"),
           parse_scaling("contrast 3 subtractive")},
          bars.features.all());
  const Network net(bars.example(), "contrast 3, average all, dense 2", Random(4));
  const std::vector<std::int64_t> rows = {3, 1};
  const WorkedMinibatch example(net, RowSet(bars).at(rows), Descent{},
                                {.preparation = preparation});
  EXPECT_EQ(example.sheet().line("x").value(),
            RowSet(bars.prepared_by(preparation)).at(rows).features);
  for (const char* name :
       {"raw.level", "raw.deviation", "centre2", "raw.level3", "contrast.level", "output"}) {
    EXPECT_NO_THROW(static_cast<void>(example.sheet().line(name))) << name;
  }
  EXPECT_TRUE(example.check().agrees());
}

TEST(contrast, refuses_what_cannot_be) {
  const auto refused = [](const std::string& text) {
    return said([&] { return plan(Shape{7, 5, 1}, parse_blueprint(text)); });
  };
  EXPECT_THAT(refused("contrast"), HasSubstr("the size of the window is missing"));
  EXPECT_THAT(refused("contrast 4"), HasSubstr("an odd number"));
  EXPECT_THAT(refused("contrast 1"), HasSubstr("3 or more"));
  EXPECT_THAT(refused("contrast 7"), HasSubstr("larger than the pictures"));
  EXPECT_THAT(refused("contrast 3 both"), HasSubstr("'both'"));
  EXPECT_THAT(refused("contrast 3 epsilon -1"), HasSubstr("above 0"));
  EXPECT_THAT(refused("contrast 3 epsilon"), HasSubstr("the end"));
  EXPECT_THAT(refused("flatten, contrast 3"), HasSubstr("[row × column × channel]"));
  EXPECT_THAT(said([] {
                return fit({parse_scaling("contrast 3")}, ones({4, 3}));
              }),
              HasSubstr("contrast needs pictures"));
  const Tensor x = pictures_to_centre();
  const Preparation preparation = fit({parse_scaling("contrast 3")}, x);
  EXPECT_THAT(said([&] { return preparation.raw(x); }), HasSubstr("has no inverse"));
}

}  // namespace
}  // namespace lattice
