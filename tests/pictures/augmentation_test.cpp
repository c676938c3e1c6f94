#include "lattice/pictures/augmentation.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <cmath>
#include <map>
#include <set>
#include <string>

#include "lattice/lattice.hpp"
#include "support/pictures.hpp"
#include "support/said.hpp"

namespace lattice {
namespace {

using ::testing::ElementsAre;
using ::testing::HasSubstr;
using testing::said;

/// The numbers 0 to 8 in three rows, moved.
std::vector<double> nine_moved(const PictureMove& move, const Around& around = Around::edge()) {
  const Tensor picture = reshape(evenly_spaced(0, 8, 9), {1, 3, 3, 1});
  return augmented(picture, as_tensor(std::vector{move}), around).numbers();
}

TEST(moved, shifts_and_fills_with_the_edge_or_a_number) {
  EXPECT_THAT(nine_moved({.down = 1}), ElementsAre(0, 1, 2, 0, 1, 2, 3, 4, 5));
  EXPECT_THAT(nine_moved({.down = 1}, Around::of(9)), ElementsAre(9, 9, 9, 0, 1, 2, 3, 4, 5));
  EXPECT_THAT(nine_moved({.right = -1}, Around::of(0)), ElementsAre(1, 2, 0, 4, 5, 0, 7, 8, 0));
  EXPECT_THAT(nine_moved({.down = 5, .right = 5}), ElementsAre(0, 0, 0, 0, 0, 0, 0, 0, 0));
  EXPECT_THAT(nine_moved({.down = -5}, Around::of(7)), ElementsAre(7, 7, 7, 7, 7, 7, 7, 7, 7));
}

TEST(moved, flips_turns_and_brightens_in_this_order) {
  EXPECT_THAT(nine_moved({.flips_across = true}), ElementsAre(2, 1, 0, 5, 4, 3, 8, 7, 6));
  EXPECT_THAT(nine_moved({.flips_down = true}), ElementsAre(6, 7, 8, 3, 4, 5, 0, 1, 2));
  EXPECT_THAT(nine_moved({.flips_across = true, .right = 1}, Around::of(9)),
              ElementsAre(9, 2, 1, 9, 5, 4, 9, 8, 7));
  EXPECT_THAT(nine_moved({.brightness = 0.5}), ElementsAre(0, .5, 1, 1.5, 2, 2.5, 3, 3.5, 4));
  // A quarter against the clock: what was on the right is on top.
  const std::vector<double> turned = nine_moved({.degrees = 90});
  const std::vector<double> expected = {2, 5, 8, 1, 4, 7, 0, 3, 6};
  for (std::size_t at = 0; at < 9; ++at)
    EXPECT_NEAR(turned[at], expected[at], 1e-12) << at;
  // An eighth leaves the middle and takes the corners from outside.
  const std::vector<double> eighth = nine_moved({.degrees = 45}, Around::of(100));
  EXPECT_NEAR(eighth[4], 4, 1e-12);
  EXPECT_GT(eighth[0], 40);
}

TEST(moved, is_each_picture_by_itself_and_says_so) {
  const Tensor two = reshape(evenly_spaced(0, 7, 8), {2, 2, 2, 1});
  const std::vector<PictureMove> moves = {{}, {.flips_across = true, .down = -1, .right = 2}};
  EXPECT_THAT(augmented(two, as_tensor(moves)).numbers(), ElementsAre(0, 1, 2, 3, 7, 7, 7, 7));
  EXPECT_EQ(in_words(moves[0]), "as it was");
  EXPECT_EQ(in_words(moves[1]), "flipped across, 1 row up, 2 columns right");
  EXPECT_EQ(in_words({.flips_down = true, .degrees = -4.25, .right = -1, .brightness = 1.125}),
            "flipped down, rotated −4.25°, 1 column left, 1.12 × as bright");
  EXPECT_EQ(move_in(as_tensor(moves), 1), moves[1]);
  EXPECT_THAT(said<ShapeError>([&] {
                return augmented(two, ones({2, 5}));
              }),
              HasSubstr("[2 × 6], a move for each picture"));
  EXPECT_THAT(said<ShapeError>([&] {
                return augmented(ones({2, 3}), ones({2, 6}));
              }),
              HasSubstr("is not a tensor of pictures"));
  for (const double number : {std::nan(""), HUGE_VAL, -1e300}) {
    Tensor beyond = as_tensor(moves);
    beyond.set({1, 3}, number);
    EXPECT_THAT(said<NumberError>([&] { return augmented(two, beyond); }),
                HasSubstr("[1,3] of the second"));
  }
}

TEST(augmentation, is_read_as_it_is_written) {
  for (const std::string text :
       {"none", "shift 2", "shift 2x1", "shift 0x3", "shift 2 filled with 0, flip across",
        "flip across, flip down", "turn 10 filled with -1.5, brightness 0.2",
        "shift 1, flip across, flip down, turn 7.5, brightness 0.1"}) {
    EXPECT_EQ(lattice::text(parse_augmentation(text)), text);
  }
  EXPECT_EQ(parse_augmentation("turn 5,shift 2"), parse_augmentation(" shift  2 , turn 5 "));
  for (const auto& [text, part] : std::vector<std::pair<std::string, std::string>>{
           {"", "the end"},
           {"shift", "the end"},
           {"shift -1", "cannot be shifted by this much"},
           {"shift 9223372036854775807", "0 to 1000000"},
           {"shift 1x2000000", "2000000"},
           {"shift 2x", "'2x'"},
           {"shift 1.5", "'1.5'"},
           {"flip", "the end"},
           {"flip over", "'over'"},
           {"turn much", "'much'"},
           {"turn 200", "0 to 180 degrees"},
           {"turn -5", "0 to 180 degrees"},
           {"brightness 1", "below 1"},
           {"brightness nan", "such as 0.2"},
           {"shift 1 filled", "the end"},
           {"shift 1 filled with nan", "cannot be the fill value"},
           {"shift 1,", "the end"},
           {"shift 1 turn 3", "'turn'"},
           {"none, shift 1", "','"},
           {"wobble 3", "'wobble'"}}) {
    EXPECT_THAT(said<SettingError>([&text = text] { return parse_augmentation(text); }),
                HasSubstr(part))
        << text;
  }
}

TEST(augmentation, is_drawn_for_each_row_and_epoch_alone) {
  const AugmentedEpoch first{.how = parse_augmentation("shift 2x1, flip across, turn 9"),
                             .random = Random(3).branch("augmentation"),
                             .epoch = 1};
  const Tensor moves = first.drawn(std::vector<std::int64_t>{5, 9, 2});
  EXPECT_EQ(first.drawn(std::vector<std::int64_t>{2, 5}).rows(std::vector<std::int64_t>{1}),
            moves.rows(std::vector<std::int64_t>{0}));
  AugmentedEpoch second = first;
  second.epoch = 2;
  EXPECT_NE(second.drawn(std::vector<std::int64_t>{5, 9, 2}), moves);
  // One more way to be moved leaves the others as they were.
  PictureAugmentation how = parse_augmentation("shift 2x1, flip across, turn 9");
  how.brightness = 0.3;
  how.flips_down = true;
  AugmentedEpoch more = first;
  more.how = how;
  const PictureMove before = move_in(moves, 1);
  PictureMove after = move_in(more.drawn(std::vector<std::int64_t>{9}), 0);
  EXPECT_NE(after.brightness, 1.0);
  after.brightness = 1.0;
  after.flips_down = false;
  EXPECT_EQ(after, before);
}

TEST(augmentation, goes_as_far_either_way_as_it_says) {
  std::vector<std::int64_t> rows(2000);
  for (std::size_t at = 0; at < rows.size(); ++at)
    rows[at] = static_cast<std::int64_t>(at);
  const PictureAugmentation how =
      parse_augmentation("shift 2x1, flip across, turn 9, brightness 0.2");
  const Tensor moves = AugmentedEpoch{.how = how, .random = Random(1), .epoch = 4}.drawn(rows);
  std::set<std::int64_t> down;
  std::set<std::int64_t> right;
  double flipped = 0.0;
  double most_turned = 0.0;
  double most_bright = 0.0;
  double degrees = 0.0;
  for (std::int64_t at = 0; at < std::ssize(rows); ++at) {
    const PictureMove move = move_in(moves, at);
    down.insert(move.down);
    right.insert(move.right);
    flipped += move.flips_across ? 1.0 : 0.0;
    EXPECT_FALSE(move.flips_down);
    most_turned = std::max(most_turned, std::abs(move.degrees));
    most_bright = std::max(most_bright, std::abs(move.brightness - 1.0));
    degrees += move.degrees;
  }
  EXPECT_THAT(down, ElementsAre(-2, -1, 0, 1, 2));
  EXPECT_THAT(right, ElementsAre(-1, 0, 1));
  EXPECT_NEAR(flipped, 1000, 100);
  EXPECT_THAT(most_turned, ::testing::AllOf(::testing::Gt(8.9), ::testing::Le(9.0)));
  EXPECT_THAT(most_bright, ::testing::AllOf(::testing::Gt(0.19), ::testing::Le(0.2)));
  EXPECT_NEAR(degrees / 2000, 0.0, 0.5);
}

TEST(augmentation, moves_pictures_as_they_were_measured_before_they_are_prepared) {
  const Dataset bars = testing::bars(20);
  const AugmentedEpoch epoch{.how = parse_augmentation("shift 1, flip down")};
  const std::vector<std::int64_t> places = {4, 11, 0};
  const Preparation scaling = fit({{.kind = ScalingKind::less_mean}}, bars.features.all());
  const Batch batch = RowSet(bars.prepared_by(scaling)).at(places, epoch);
  const Tensor moves = epoch.drawn(places);
  EXPECT_EQ(batch.drawn, moves);
  EXPECT_EQ(batch.features, scaling.prepared(augmented(bars.features.rows(places), moves)));
  EXPECT_EQ(batch.augmented_in_words().size(), 3U);
  EXPECT_TRUE(RowSet(bars).at(places, AugmentedEpoch{}).drawn.empty());
  EXPECT_THAT(said<ShapeError>([&] { return RowSet(demo_set("glazes", 20, 1)).at(places, epoch); }),
              HasSubstr("only pictures can be augmented"));
}

TEST(augmentation, gives_the_same_minibatches_on_any_number_of_threads) {
  const Dataset bars = testing::bars(61);
  std::vector<Batch> all;
  for (const std::int64_t threads : {0, 1, 2, 4, 7}) {
    Random random(3);
    std::size_t at = 0;
    for (const Batch& batch :
         minibatches(bars,
                     {.size = 4,
                     .ahead = threads,
                     .augmented = {.how = parse_augmentation("shift 1, turn 20"), .epoch = 2}},
                     random)) {
      if (threads == 0) {
        all.push_back(batch);
        continue;
      }
      ASSERT_LT(at, all.size());
      EXPECT_EQ(batch.rows, all[at].rows);
      EXPECT_EQ(batch.features, all[at].features);
      EXPECT_EQ(batch.drawn, all[at++].drawn);
    }
    EXPECT_EQ(at, threads > 0 ? 16U : 0U);
  }
  Random random(1);
  EXPECT_THAT(said<SettingError>([&] { return minibatches(bars, {.ahead = -1}, random); }),
              HasSubstr("-1 threads"));
}

/// Numbers that were drawn, and what they say of the distribution that they were drawn from: with
/// bounds of five standard errors, so that a test fails by chance less than once in a million runs.
struct Drawn {
  std::vector<double> numbers;

  [[nodiscard]] double mean() const {
    double sum = 0.0;
    for (const double number : numbers)
      sum += number;
    return sum / static_cast<double>(numbers.size());
  }
  [[nodiscard]] double mean_square() const {
    double sum = 0.0;
    for (const double number : numbers)
      sum += number * number;
    return sum / static_cast<double>(numbers.size());
  }

  /// @param deviation of a single number, by which the mean of so many may be off
  void expect_mean(double expected, double deviation, const char* what) const {
    EXPECT_NEAR(mean(), expected, 5.0 * deviation / std::sqrt(numbers.size())) << what;
  }

  /// Evenly spread from −`most` to `most`: its mean is 0, and its mean square most²/3, which varies
  /// from sample to sample with a deviation of most²·√(4/45).
  void expect_even(double most, const char* what) const {
    expect_mean(0.0, most / std::sqrt(3.0), what);
    EXPECT_NEAR(mean_square(), most * most / 3.0,
                5.0 * most * most * std::sqrt(4.0 / 45.0) / std::sqrt(numbers.size()))
        << what;
  }
};

TEST(augmentation, draws_each_move_evenly_and_apart_from_the_others) {
  std::vector<std::int64_t> rows(20'000);
  for (std::size_t at = 0; at < rows.size(); ++at)
    rows[at] = static_cast<std::int64_t>(at);
  const PictureAugmentation how =
      parse_augmentation("shift 2x1, flip across, flip down, turn 9, brightness 0.2");
  const Tensor moves = AugmentedEpoch{.how = how, .random = Random(1), .epoch = 4}.drawn(rows);
  std::map<std::string, Drawn> drawn;
  for (std::int64_t at = 0; at < std::ssize(rows); ++at) {
    const PictureMove move = move_in(moves, at);
    const std::map<std::string, double> numbers = {{"across", move.flips_across ? 1.0 : -1.0},
                                                   {"down", move.flips_down ? 1.0 : -1.0},
                                                   {"turn", move.degrees / 9.0},
                                                   {"rows", static_cast<double>(move.down) / 2.0},
                                                   {"columns", static_cast<double>(move.right)},
                                                   {"bright", (move.brightness - 1.0) / 0.2}};
    for (const auto& [name, number] : numbers) {
      drawn[name].numbers.push_back(number);
      for (const auto& [other, with] : numbers) {
        if (name < other) drawn[name + " and " + other].numbers.push_back(number * with);
      }
    }
  }
  drawn["turn"].expect_even(1.0, "turn");
  drawn["bright"].expect_even(1.0, "bright");
  // Each way as often as the other; of the shifts each number as often as the others.
  for (const auto& [name, each] : drawn)
    each.expect_mean(0.0, 1.0, name.c_str());
  const double n = std::sqrt(static_cast<double>(rows.size()));
  EXPECT_NEAR(drawn["rows"].mean_square(), 2.0 / 4.0, 5.0 * 0.42 / n);  // (4 + 1 + 0 + 1 + 4)/5/4
  EXPECT_NEAR(drawn["columns"].mean_square(), 2.0 / 3.0, 5.0 * 0.48 / n);  // (1 + 0 + 1)/3
}

}  // namespace
}  // namespace lattice
