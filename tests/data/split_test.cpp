#include "lattice/data/split.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <algorithm>
#include <array>
#include <numeric>
#include <set>

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

/// Rows of one feature, from 0, and one number to predict.
Dataset rows_of(std::int64_t count) {
  std::vector<double> numbers(static_cast<std::size_t>(count));
  std::iota(numbers.begin(), numbers.end(), 0.0);
  return dataset_of_numbers(tensor({count, 1}, numbers), tensor({count}, numbers));
}

std::array<double, 3> shares_of(const SplitSettings& settings, std::int64_t rows = 40) {
  const SplitSettings full = in_full(rows_of(rows), settings);
  return {*full.train, *full.validation, *full.test};
}

TEST(shares, that_are_left_out_follow_from_the_others) {
  using Shares = std::array<double, 3>;
  EXPECT_EQ(shares_of({}), (Shares{0.6, 0.2, 0.2}));
  EXPECT_EQ(shares_of({.validation = 0.1}), (Shares{0.7, 0.1, 0.2}));
  EXPECT_EQ(shares_of({.test = 0.3}), (Shares{0.5, 0.2, 0.3}));
  EXPECT_EQ(shares_of({.validation = 0.0, .test = 0.0}), (Shares{1.0, 0.0, 0.0}));
  EXPECT_EQ(shares_of({.train = 0.5}), (Shares{0.5, 0.25, 0.25}));
  EXPECT_EQ(shares_of({.train = 0.5, .test = 0.25}), (Shares{0.5, 0.25, 0.25}));
  EXPECT_EQ(shares_of({.train = 0.75, .test = 0.25}), (Shares{0.75, 0.0, 0.25}));
  EXPECT_EQ(shares_of({.train = 0.7, .test = 0.3}), (Shares{0.7, 0.0, 0.3}));
  EXPECT_EQ(shares_of({.train = 0.5, .validation = 0.125}), (Shares{0.5, 0.125, 0.375}));
  EXPECT_EQ(shares_of({.train = 1.0, .validation = 0.0, .test = 0.0}), (Shares{1.0, 0.0, 0.0}));
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

TEST(shares, may_be_numbers_of_rows) {
  using Shares = std::array<double, 3>;
  EXPECT_EQ(shares_of({.train = 30, .validation = 4}), (Shares{30, 4, 6}));
  EXPECT_EQ(shares_of({.train = 20}), (Shares{20, 10, 10}));
  EXPECT_EQ(shares_of({.train = 35, .validation = 5}), (Shares{35, 5, 0}));
  EXPECT_EQ(shares_of({.validation = 10, .test = 0.25}), (Shares{20, 10, 0.25}));
  Random random(1);
  const SplitRows rows = split_rows(1000, {.train = 333, .validation = 77}, random);
  EXPECT_EQ(rows.train.size(), 333U);
  EXPECT_EQ(rows.validation.size(), 77U);
  EXPECT_EQ(rows.test.size(), 590U);
  const auto refused = [](const SplitSettings& settings) {
    return testing::said<SettingError>([&] { (void)shares_of(settings); });
  };
  EXPECT_THAT(refused({.train = 41}), HasSubstr("at most 40"));
  EXPECT_THAT(refused({.train = 1.5}), HasSubstr("a number of rows from 2"));
  EXPECT_THAT(refused({.train = -2}), HasSubstr("found:    −2"));
  EXPECT_THAT(refused({.train = 30, .test = 20}), HasSubstr("30 + 0 + 20"));
  EXPECT_THAT(refused({.train = 0}), HasSubstr("no train part"));
}

TEST(shares, in_rows_are_exact_when_they_are_stratified_and_near_the_share_of_each_class) {
  Random random(3);
  for (int round = 0; round < 50; ++round) {
    const std::int64_t count = 60 + random.below(200);
    const std::int64_t classes = 2 + random.below(9);
    std::vector<double> numbers;
    for (std::int64_t row = 0; row < count; ++row)
      numbers.push_back(static_cast<double>(random.below(classes)));
    const auto train = static_cast<double>(20 + random.below(20));
    const auto validation = static_cast<double>(2 + random.below(15));
    const SplitRows dealt = split_rows(
        tensor({count}, numbers),
        {.train = train, .validation = validation, .test = 3, .stratified = true}, random);
    EXPECT_EQ(static_cast<double>(dealt.train.size()), train);
    EXPECT_EQ(static_cast<double>(dealt.validation.size()), validation);
    EXPECT_EQ(dealt.test.size(), 3U);
    std::set<std::int64_t> all(dealt.train.begin(), dealt.train.end());
    all.insert(dealt.validation.begin(), dealt.validation.end());
    all.insert(dealt.test.begin(), dealt.test.end());
    EXPECT_EQ(static_cast<double>(all.size()), train + validation + 3);
    for (std::int64_t of = 0; of < classes; ++of) {
      const auto is_of = [&](std::int64_t row) {
        return numbers[static_cast<std::size_t>(row)] == static_cast<double>(of);
      };
      const auto of_class =
          static_cast<double>(std::ranges::count(numbers, static_cast<double>(of)));
      EXPECT_NEAR(static_cast<double>(std::ranges::count_if(dealt.train, is_of)),
                  of_class * train / static_cast<double>(count), 2.0);
    }
  }
}

/// Rows of which the last ten are a test part, and the two before them a validation part.
Dataset with_fixed_parts() {
  Dataset data = rows_of(52);
  FixedPart test{.part = DataPart::test, .name = "june"};
  for (std::int64_t row = 42; row < 52; ++row)
    test.rows.push_back(row);
  data.fixed_parts = {test, {.part = DataPart::validation, .name = "may", .rows = {40, 41}}};
  return data;
}

TEST(fixed_parts, stay_together_and_the_other_rows_are_split) {
  Random random(1);
  Dataset data = with_fixed_parts();
  SplitRows rows = split_rows(data, {}, random);
  EXPECT_EQ(rows.train.size(), 40U);
  EXPECT_EQ(rows.validation, data.fixed_part(DataPart::validation)->rows);
  EXPECT_EQ(rows.test, data.fixed_part(DataPart::test)->rows);
  EXPECT_EQ(*std::ranges::max_element(rows.train), 39);
  data.fixed_parts.pop_back();
  rows = split_rows(data, {}, random);
  EXPECT_EQ(rows.train.size(), 34U);  // 0.8 of 42
  EXPECT_EQ(rows.validation.size(), 8U);
  const SplitSettings full = in_full(data, {});
  EXPECT_EQ(full.train, 0.8);
  EXPECT_EQ(full.validation, 0.2);
  EXPECT_FALSE(full.test);
  rows = split_rows(data, {.validation = 12}, random);
  EXPECT_EQ(rows.train.size(), 30U);
}

TEST(fixed_parts, are_drawn_from_when_a_share_is_said) {
  Random random(1);
  const Dataset data = with_fixed_parts();
  for (const double amount : {0.4, 4.0}) {
    const SplitRows rows = split_rows(data, {.test = amount}, random);
    EXPECT_EQ(rows.test.size(), 4U);
    EXPECT_TRUE(std::ranges::is_sorted(rows.test));
    EXPECT_GE(rows.test.front(), 42);
    EXPECT_EQ(rows.train.size(), 40U);
  }
  EXPECT_TRUE(split_rows(data, {.test = 0}, random).test.empty());
  EXPECT_THAT(testing::said<SettingError>([&] { (void)split_rows(data, {.test = 11}, random); }),
              HasSubstr("at most 10"));
  EXPECT_THAT(testing::said<SettingError>([&] { (void)split_rows(data, {.test = 0.01}, random); }),
              HasSubstr("the test part would get no row"));
}

TEST(fixed_parts, go_with_the_rows_that_are_taken) {
  const Dataset data = with_fixed_parts();
  const Dataset some = data.taking(std::vector<std::int64_t>{3, 41, 50, 42});
  EXPECT_THAT(some.fixed_part(DataPart::test)->rows, ElementsAre(2, 3));
  EXPECT_THAT(some.fixed_part(DataPart::validation)->rows, ElementsAre(1));
  EXPECT_TRUE(data.taking(std::vector<std::int64_t>{3, 4}).fixed_parts.empty());
  Dataset moved = data;
  moved.fixed_parts.front().rows.pop_back();
  EXPECT_NE(fingerprint(moved), fingerprint(data));
}

TEST(fixed_parts, refuse_rows_that_are_not_there_or_in_two_parts) {
  Random random(1);
  Dataset data = with_fixed_parts();
  data.fixed_parts.back().rows = {41, 42};
  EXPECT_THAT(testing::said<IndexError>([&] { (void)split_rows(data, {}, random); }),
              HasSubstr("a row that is fixed already"));
  data.fixed_parts.back().rows = {52};
  EXPECT_THAT(testing::said<IndexError>([&] { (void)split_rows(data, {}, random); }),
              HasSubstr("found:    52"));
}

TEST(fixed_parts, keep_their_rows_where_some_labels_are_known) {
  Random random(1);
  Dataset data = with_fixed_parts();
  data.known = {0, 1, 2, 45};
  const SplitRows rows = split_rows(data, {}, random);
  EXPECT_THAT(rows.train, ElementsAre(0, 1, 2));
  EXPECT_EQ(rows.test.size(), 10U);
  EXPECT_EQ(rows.validation.size(), 2U);
}

}  // namespace
}  // namespace lattice
