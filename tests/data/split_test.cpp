#include "lattice/data/split.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <algorithm>
#include <array>

#include "lattice/data/demo_sets.hpp"
#include "lattice/text/error.hpp"
#include "support/said.hpp"

namespace lattice {
namespace {

using ::testing::ElementsAre;
using ::testing::HasSubstr;

TEST(split, deals_out_every_row_once) {
  Random random(1);
  const SplitRows rows = split_rows(101, {.train = 0.6, .validation = 0.2, .test = 0.2}, random);
  EXPECT_EQ(rows.train.size(), 61U);
  EXPECT_EQ(rows.validation.size(), 20U);
  EXPECT_EQ(rows.test.size(), 20U);
  std::vector<std::int64_t> all = rows.train;
  all.insert(all.end(), rows.validation.begin(), rows.validation.end());
  all.insert(all.end(), rows.test.begin(), rows.test.end());
  std::ranges::sort(all);
  for (std::int64_t row = 0; row < 101; ++row)
    EXPECT_EQ(all[static_cast<std::size_t>(row)], row);
  EXPECT_FALSE(std::ranges::is_sorted(rows.train));
}

TEST(split, is_the_same_for_the_same_seed_and_keeps_order_when_not_shuffled) {
  const auto train = [](std::uint64_t seed, bool shuffled) {
    Random random(seed);
    return split_rows(50, {.shuffled = shuffled}, random).train;
  };
  EXPECT_EQ(train(1, true), train(1, true));
  EXPECT_NE(train(1, true), train(2, true));
  EXPECT_EQ(train(1, false).front(), 0);
  EXPECT_EQ(train(1, false).back(), 29);
}

TEST(split, keeps_shares_of_classes_when_stratified) {
  const Dataset glazes = demo_set("glazes", 400, 3);
  const std::vector<std::int64_t> whole = RowSet(glazes).class_sizes();
  Random random(1);
  const Split parts = split(glazes, {.stratified = true}, random);
  for (std::size_t of = 0; of < whole.size(); ++of) {
    EXPECT_NEAR(static_cast<double>(parts.train.class_sizes()[of]),
                0.6 * static_cast<double>(whole[of]), 1.0);
    EXPECT_NEAR(static_cast<double>(parts.test.class_sizes()[of]),
                0.2 * static_cast<double>(whole[of]), 1.0);
  }
  // The rows of a part are in random order, not class by class.
  EXPECT_GT(parts.train.classes().numbers().size(), 200U);
  EXPECT_FALSE(std::ranges::is_sorted(parts.train.classes().numbers()));
}

TEST(split, keeps_the_order_of_rows_when_stratified_and_not_shuffled) {
  Random random(1);
  const SplitRows rows = split_rows(tensor({0, 1, 0, 1, 0, 1, 0, 1, 0, 1}),
                                    {.stratified = true, .shuffled = false}, random);
  EXPECT_THAT(rows.train, ElementsAre(0, 1, 2, 3, 4, 5));
  EXPECT_THAT(rows.validation, ElementsAre(6, 7));
  EXPECT_THAT(rows.test, ElementsAre(8, 9));
}

TEST(split, keeps_features_and_truth_of_a_row_together) {
  const Dataset cracks = demo_set("cracks", 60, 2);
  Random random(4);
  const Split parts = split(cracks, {}, random);
  for (const DataPart part : all_data_parts) {
    const Batch batch = parts[part].all();
    EXPECT_EQ(batch.rows, parts[part].rows());
    for (std::size_t at = 0; at < batch.rows.size(); ++at) {
      const auto here = static_cast<std::int64_t>(at);
      const std::int64_t there = batch.rows[at];
      EXPECT_EQ(batch.features.at({here, 1}), cracks.features.at({there, 1}));
      EXPECT_EQ(batch.classes.at({here}), cracks.classes.at({there}));
    }
  }
}

TEST(split, may_leave_parts_out) {
  Random random(1);
  const Split parts = split(demo_set("kiln"), {.train = 1.0, .validation = 0, .test = 0}, random);
  EXPECT_EQ(parts.train.count(), 60);
  EXPECT_FALSE(parts.has(DataPart::validation));
  EXPECT_FALSE(parts.has(DataPart::test));
}

TEST(split, refuses_impossible_shares) {
  Random random(1);
  const auto trouble = [&](const SplitSettings& settings, std::int64_t rows = 10) {
    return testing::said<SettingError>([&] { return split_rows(rows, settings, random); });
  };
  EXPECT_THAT(trouble({.train = 0.8, .validation = 0.2, .test = 0.2}),
              HasSubstr("0.8 + 0.2 + 0.2 = 1.2"));
  EXPECT_THAT(trouble({.train = -0.1}), HasSubstr("the train part cannot have this share"));
  EXPECT_THAT(trouble({.train = 0.5, .validation = 0.2, .test = 1.5}), HasSubstr("the test part"));
  EXPECT_THAT(trouble({.train = 0.0}), HasSubstr("there is no train part"));
  EXPECT_THAT(trouble({.train = 0.9, .validation = 0.05, .test = 0.05}, 5),
              HasSubstr("would get no row"));
  EXPECT_THAT(trouble({.stratified = true}), HasSubstr("stratified parts need classes"));
}

TEST(split, scales_every_part_with_the_factors_of_the_train_part) {
  Random random(1);
  const Split raw = split(demo_set("shrinkage"), {}, random);
  const Split parts = scaled(raw, ScalingKind::standard, ScalingKind::min_max);
  const Preparation fitted = fit({{}}, raw.train.features());
  EXPECT_EQ(parts.data().preparation, fitted);
  EXPECT_EQ(parts.test.features(), fitted.prepared(raw.test.features()));
  EXPECT_EQ(std::ranges::min(parts.train.targets().numbers()), 0.0);
  EXPECT_EQ(std::ranges::max(parts.train.targets().numbers()), 1.0);
  EXPECT_TRUE(scaled(raw, ScalingKind::none).data().preparation.empty());
  // One dataset, held once.
  EXPECT_EQ(&parts.train.data(), &parts.test.data());
  EXPECT_EQ(parts.data().features.all().data<double>(), raw.data().features.all().data<double>());
}

TEST(folds, let_every_row_that_is_not_for_testing_validate_once) {
  Random random(3);
  const Split parts = split(demo_set("glazes", 103, 1), {.stratified = true}, random);
  std::vector<std::int64_t> validated;
  for (std::int64_t number = 0; number < 5; ++number) {
    const Split fold = folded(parts, {.number = number, .count = 5});
    EXPECT_EQ(fold.test.rows(), parts.test.rows());
    EXPECT_EQ(fold.train.count() + fold.validation.count(),
              parts.train.count() + parts.validation.count());
    for (const std::int64_t row : fold.validation.rows()) {
      EXPECT_EQ(std::ranges::count(fold.train.rows(), row), 0);
      validated.push_back(row);
    }
    EXPECT_NEAR(static_cast<double>(fold.validation.count()), 82.0 / 5.0, 1.0);
  }
  std::vector<std::int64_t> expected = parts.train.rows();
  expected.insert(expected.end(), parts.validation.rows().begin(), parts.validation.rows().end());
  std::ranges::sort(expected);
  std::ranges::sort(validated);
  EXPECT_EQ(validated, expected);
  for (const Fold wrong : {Fold{0, 1}, Fold{0, 90}, Fold{5, 5}, Fold{-1, 5}})
    EXPECT_THROW(static_cast<void>(folded(parts, wrong)), SettingError);
}

TEST(shares, that_are_left_out_follow_from_the_others) {
  using Shares = std::array<double, 3>;
  EXPECT_EQ(part_shares({}), (Shares{0.6, 0.2, 0.2}));
  EXPECT_EQ(part_shares({.validation = 0.1}), (Shares{0.7, 0.1, 0.2}));
  EXPECT_EQ(part_shares({.test = 0.3}), (Shares{0.5, 0.2, 0.3}));
  EXPECT_EQ(part_shares({.validation = 0.0, .test = 0.0}), (Shares{1.0, 0.0, 0.0}));
  EXPECT_EQ(part_shares({.train = 0.5}), (Shares{0.5, 0.25, 0.25}));
  EXPECT_EQ(part_shares({.train = 0.5, .test = 0.25}), (Shares{0.5, 0.25, 0.25}));
  EXPECT_EQ(part_shares({.train = 0.75, .test = 0.25}), (Shares{0.75, 0.0, 0.25}));
  EXPECT_EQ(part_shares({.train = 0.5, .validation = 0.125}), (Shares{0.5, 0.125, 0.375}));
  EXPECT_EQ(part_shares({.train = 1.0, .validation = 0.0, .test = 0.0}), (Shares{1.0, 0.0, 0.0}));
  Random random(1);
  const Split parts = split(demo_set("kiln"), {.train = 0.75, .test = 0.25}, random);
  EXPECT_EQ(parts.train.count(), 45);
  EXPECT_FALSE(parts.has(DataPart::validation));
  EXPECT_EQ(parts.test.count(), 15);
}

TEST(shares, that_are_a_little_more_than_the_whole_are_refused) {
  Random random(1);
  for (const double more : {0.05, 1e-3, 1e-6}) {
    EXPECT_THROW(static_cast<void>(split_rows(
                     100, {.train = 0.6, .validation = 0.2, .test = 0.2 + more}, random)),
                 SettingError)
        << more;
  }
  // What is more by rounding alone is the whole.
  EXPECT_EQ(split_rows(100, {.train = 0.7, .validation = 0.2, .test = 0.1}, random).train.size(),
            70U);
  // A share that makes no row is told, and one of 0 is not.
  EXPECT_THROW(
      static_cast<void>(split_rows(10, {.train = 0.97, .validation = 0.0, .test = 0.03}, random)),
      SettingError);
  EXPECT_EQ(
      split_rows(10, {.train = 0.5, .validation = 0.0, .test = 0.5}, random).validation.size(), 0U);
}

}  // namespace
}  // namespace lattice
