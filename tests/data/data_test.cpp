#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <numeric>

#include "lattice/core.hpp"
#include "lattice/data/demo_sets.hpp"
#include "lattice/data/minibatches.hpp"
#include "lattice/data/preparation.hpp"
#include "lattice/data/summary.hpp"
#include "support/said.hpp"

namespace lattice {
namespace {

using ::testing::ElementsAre;

TEST(dataset, of_ones_own_arrays_is_checked_and_given_the_names_it_lacks) {
  const Tensor sizes = tensor({{1, 10}, {2, 20}, {3, 30}});
  const Dataset pots = dataset_of_classes(sizes, tensor({0, 2, 0}));
  EXPECT_THAT(pots.feature_names, ElementsAre("feature 0", "feature 1"));
  EXPECT_THAT(pots.class_names, ElementsAre("class 0", "class 1", "class 2"));
  EXPECT_EQ(to_string(pots.features.shape()), "[example 3 × feature 2]");
  EXPECT_THAT(RowSet(pots).class_sizes(), ElementsAre(2, 0, 1));
  const Dataset heights = dataset_of_numbers(sizes, tensor({5, 6, 7}),
                                             {.features = {"age", "width"}, .targets = {"height"}});
  EXPECT_EQ(to_string(heights.targets.shape()), "[example 3 × target 1]");
  EXPECT_EQ(heights.target_name(), "height");
  EXPECT_EQ(dataset_of_numbers(sizes, sizes).targets.shape(), (Shape{3, 2}));

  const auto trouble = [](auto&& make) { return testing::said([&] { return make(); }); };
  using ::testing::HasSubstr;
  EXPECT_THAT(trouble([&] {
                return dataset_of_classes(sizes, tensor({0, 1}));
              }),
              HasSubstr("3 rows"));
  EXPECT_THAT(trouble([&] {
                return dataset_of_classes(sizes, tensor({0, 1, 0.5}));
              }),
              HasSubstr("row 2"));
  EXPECT_THAT(trouble([&] {
                return dataset_of_classes(sizes, tensor({0, 1, -1}));
              }),
              HasSubstr("a whole number from 0"));
  EXPECT_THAT(trouble([&] {
                return dataset_of_classes(sizes, tensor({0, 1, 2}), {.classes = {"a", "b"}});
              }),
              HasSubstr("class 2"));
  EXPECT_THAT(trouble([&] { return dataset_of_classes(sizes, sizes); }), HasSubstr("argmax"));
  EXPECT_THAT(trouble([&] { return dataset_of_numbers(sizes, Tensor()); }), HasSubstr("nothing"));
  EXPECT_THAT(trouble([&] { return dataset_of_numbers(sizes, sizes, {.features = {"a"}}); }),
              HasSubstr("2 names, or none"));
}

TEST(dataset, without_names_is_safe_to_look_at_and_to_learn_from) {
  const Dataset bare{.name = "",
                     .features = tensor({{1, 10}, {2, 20}, {3, 35}, {4, 41}}),
                     .classes = tensor({0, 2, 0, 1})};
  EXPECT_EQ(bare.class_count(), 3);
  EXPECT_THAT(RowSet(bare).class_sizes(), ElementsAre(2, 1, 1));
  EXPECT_EQ(summarise(bare).class_names[2], "class 2");
  EXPECT_EQ(summarise(bare).features[1].name, "feature 1");
  const Split parts{.train = bare};
  EXPECT_NO_THROW(static_cast<void>(remarks_on(parts)));
  Network net(Shape{2}, "dense 3", Random(1));
  EXPECT_EQ(train(net, parts, {.epochs = 2, .batch = 2}).last_epoch(), 2);
  EXPECT_EQ(assess(net, bare).classes->classes[1].name, "class 1");
  EXPECT_EQ(model_of(net, Loss::cross_entropy, bare).class_names.size(), 3U);
  Dataset wrong = bare;
  wrong.classes = tensor({0, 1, 2, 9});
  wrong.class_names = {"a", "b", "c"};
  EXPECT_THROW(static_cast<void>(assess(net, wrong)), ShapeError);
  wrong.classes = tensor({0, 1, 2, -9});
  EXPECT_THROW(static_cast<void>(RowSet(wrong).class_sizes()), NumberError);
  const Dataset features_alone{.name = "", .features = tensor({{1, 2}, {3, 4}})};
  EXPECT_EQ(summarise(features_alone).features.size(), 2U);
}

TEST(minibatches, go_on_when_the_dataset_has_ended) {
  for (const std::int64_t ahead : {0, 3}) {
    Random random(1);
    double sum = 0.0;
    for (const Batch& batch : minibatches(demo_set("kiln"), {.size = 7, .ahead = ahead}, random)) {
      for (const double number : batch.targets.numbers())
        sum += number;
    }
    double all = 0.0;
    for (const double number : demo_set("kiln").targets.numbers())
      all += number;
    EXPECT_NEAR(sum, all, 1e-9);
  }
}

TEST(minibatches, show_every_row_once_an_epoch_and_keep_the_smaller_last_one) {
  const Dataset kiln = demo_set("kiln");
  Random random(1);
  std::vector<std::int64_t> seen;
  std::vector<std::size_t> sizes;
  for (const Batch& batch : minibatches(kiln, {.size = 16}, random)) {
    seen.insert(seen.end(), batch.rows.begin(), batch.rows.end());
    sizes.push_back(batch.rows.size());
    for (std::size_t example = 0; example < batch.rows.size(); ++example) {
      const auto place = static_cast<std::int64_t>(example);
      EXPECT_EQ(batch.features.at({place, 0}), kiln.features.at({batch.rows[example], 0}));
      EXPECT_EQ(batch.targets.at({place, 0}), kiln.targets.at({batch.rows[example], 0}));
    }
  }
  EXPECT_THAT(sizes, ElementsAre(16, 16, 16, 12));
  std::ranges::sort(seen);
  for (std::int64_t row = 0; row < 60; ++row)
    EXPECT_EQ(seen[static_cast<std::size_t>(row)], row);
}

TEST(minibatches, are_shuffled_anew_each_epoch_and_alike_for_the_same_seed) {
  const Dataset kiln = demo_set("kiln");
  const auto first_rows = [&](Random& random) {
    Minibatches epoch = minibatches(kiln, {.size = 8}, random);
    return (*epoch.begin()).rows;
  };
  Random a(1);
  Random b(1);
  Random c(2);
  const std::vector<std::int64_t> first = first_rows(a);
  EXPECT_EQ(first, first_rows(b));
  EXPECT_NE(first, first_rows(a));
  EXPECT_NE(first, first_rows(c));
}

TEST(minibatches, come_in_the_same_order_each_epoch_where_that_is_asked_for) {
  const RowSet rows(demo_set("kiln", 20, 1), {7, 3, 11, 0, 19, 4, 5});
  const auto epoch = [&](RowOrder order, Random& random) {
    std::vector<std::int64_t> seen;
    for (const Batch& batch : minibatches(rows, {.size = 3, .order = order}, random))
      seen.insert(seen.end(), batch.rows.begin(), batch.rows.end());
    return seen;
  };
  Random random(4);
  EXPECT_EQ(epoch(RowOrder::as_in_the_data, random),
            (std::vector<std::int64_t>{0, 3, 4, 5, 7, 11, 19}));
  const std::vector<std::int64_t> once = epoch(RowOrder::shuffled_once, random);
  EXPECT_EQ(epoch(RowOrder::shuffled_once, random), once);
  // The first epoch of those that differ is that one.
  EXPECT_EQ(epoch(RowOrder::shuffled_each_epoch, random), once);
  EXPECT_NE(epoch(RowOrder::shuffled_each_epoch, random), once);
}

TEST(minibatches, can_be_asked_for_by_their_size_alone) {
  const Dataset kiln = demo_set("kiln", 20, 1);
  Random first(3);
  Random second(3);
  std::vector<std::vector<std::int64_t>> by_size;
  for (const Batch& batch : minibatches(kiln, 6, first))
    by_size.push_back(batch.rows);
  std::vector<std::vector<std::int64_t>> by_settings;
  for (const Batch& batch : minibatches(kiln, {.size = 6}, second))
    by_settings.push_back(batch.rows);
  EXPECT_EQ(by_size.size(), 4U);
  EXPECT_EQ(by_size, by_settings);
}

TEST(minibatches, refuse_to_be_gone_through_twice) {
  Random random(3);
  Minibatches epoch = minibatches(demo_set("kiln", 20, 1), 6, random);
  std::int64_t rows = 0;
  for (const Batch& batch : epoch)
    rows += std::ssize(batch.rows);
  EXPECT_EQ(rows, 20);
  EXPECT_THROW(static_cast<void>(epoch.begin()), SettingError);
}

TEST(minibatches, refuse_sizes_that_cannot_be) {
  const Dataset kiln = demo_set("kiln");
  Random random(1);
  EXPECT_THROW(static_cast<void>(minibatches(kiln, {.size = 0}, random)), SettingError);
  EXPECT_THROW(static_cast<void>(minibatches(kiln, {.size = 61}, random)), SettingError);
  EXPECT_NO_THROW(static_cast<void>(minibatches(kiln, {.size = 60}, random)));
  EXPECT_THROW(RowSet(kiln, {60}), IndexError);
}

/// The one step of a preparation of a kind.
Scaling fitted(ScalingKind kind, const Tensor& examples) {
  return fit({{.kind = kind}}, examples).steps.at(0);
}

TEST(scaling, brings_features_to_mean_0_and_spread_1) {
  const Tensor raw = tensor({{1, 10, 7}, {3, 30, 7}});
  const Scaling scaling = fitted(ScalingKind::standard, raw);
  EXPECT_THAT(scaling.centre.numbers(), ElementsAre(2, 20, 7));
  EXPECT_THAT(scaling.divisor.numbers(), ElementsAre(1, 10, 1));
  EXPECT_THAT(scaling.scaled(raw).numbers(), ElementsAre(-1, -1, 0, 1, 1, 0));
  EXPECT_THAT(scaling.scaled(tensor({{4, 0, 7}})).numbers(), ElementsAre(2, -2, 0));
  EXPECT_THROW(static_cast<void>(scaling.scaled(tensor({{1, 2}}))), ShapeError);
  EXPECT_THROW(static_cast<void>(fitted(ScalingKind::standard, tensor({1, 2}))), ShapeError);
}

TEST(minibatches, are_the_same_when_another_thread_prepares_them) {
  const Dataset glazes = demo_set("glazes", 101, 1);
  Random here(3);
  Random there(3);
  for (int epoch = 0; epoch < 3; ++epoch) {
    std::vector<Batch> batches;
    for (const Batch& batch : minibatches(glazes, {.size = 7}, here))
      batches.push_back(batch);
    std::size_t at = 0;
    for (const Batch& batch : minibatches(glazes, {.size = 7, .ahead = 2}, there)) {
      ASSERT_LT(at, batches.size());
      EXPECT_EQ(batch.rows, batches[at].rows);
      EXPECT_EQ(batch.features, batches[at].features);
      EXPECT_EQ(batch.classes, batches[at].classes);
      ++at;
    }
    EXPECT_EQ(at, batches.size());
  }
  // Left in the middle, the other thread ends too.
  Minibatches left = minibatches(glazes, {.size = 1, .ahead = 2}, there);
  EXPECT_EQ((*left.begin()).rows.size(), 1U);
  left = minibatches(glazes, {.size = 2, .ahead = 2}, there);
  EXPECT_EQ((*left.begin()).rows.size(), 2U);
}

TEST(scaling, from_0_to_1_and_back) {
  const Tensor raw = tensor({{1, 10, 7}, {3, 30, 7}, {2, 15, 7}});
  const Scaling scaling = fitted(ScalingKind::min_max, raw);
  EXPECT_THAT(scaling.scaled(raw).numbers(), ElementsAre(0, 0, 0, 1, 1, 0, 0.5, 0.25, 0));
  EXPECT_THAT(scaling.raw(scaling.scaled(raw)).numbers(),
              ElementsAre(1, 10, 7, 3, 30, 7, 2, 15, 7));
  EXPECT_TRUE(fit({{.kind = ScalingKind::none}}, raw).empty());
}

TEST(dataset, is_prepared_once) {
  const Dataset kiln = demo_set("kiln");
  const Preparation standard = fit({{}}, kiln.features);
  const Dataset prepared = kiln.prepared_by(standard);
  EXPECT_EQ(prepared.preparation, standard);
  EXPECT_EQ(prepared.features, kiln.features);
  EXPECT_EQ(RowSet(prepared).features(), standard.prepared(kiln.features));
  EXPECT_EQ(RowSet(prepared).as_measured().features(), kiln.features);
  EXPECT_THROW(static_cast<void>(prepared.prepared_by(standard)), SettingError);
}

TEST(summary, has_range_mean_and_spread) {
  const Dataset data{.name = "two",
                     .features = tensor({{1, 5}, {3, 5}}),
                     .targets = tensor({{-2}, {4}}),
                     .feature_names = {"a", "b"},
                     .target_names = {"y"}};
  const DataSummary summary = summarise(data);
  EXPECT_EQ(summary.features[0].low, 1);
  EXPECT_EQ(summary.features[0].high, 3);
  EXPECT_EQ(summary.features[0].mean, 2);
  EXPECT_EQ(summary.features[0].standard_deviation, 1);
  EXPECT_EQ(summary.features[1].high, 5);
  EXPECT_EQ(summary.features[1].standard_deviation, 0);
  EXPECT_EQ(summary.numbers[0].standard_deviation, 3);
  EXPECT_THAT(summarise(demo_set("cracks", 50, 1)).class_names, ElementsAre("cracked", "sound"));
}

// The best possible rule for cracks is the band that the labels were made from, wrong labels
// aside; for glazes the likelihood under the bells that the measurements were drawn from.
TEST(demo_sets, can_be_told_apart_as_well_as_their_story_says) {
  const Dataset cracks = demo_set("cracks", 20000, 5);
  std::int64_t right = 0;
  for (std::int64_t row = 0; row < cracks.rows(); ++row) {
    const double beyond = cracks.features.at({row, 0}) - 3.0;
    const double shortest = 8.0 + 0.17 * beyond * beyond;
    const double hours = cracks.features.at({row, 1});
    const bool sound = hours >= shortest && hours <= shortest + 30.0;
    right += (cracks.classes.at({row}) == 1.0) == sound ? 1 : 0;
  }
  EXPECT_NEAR(static_cast<double>(right) / 20000.0, 0.95, 0.005);

  const double mean[4][5] = {{3.0, 53.0, 0.48, 52.0, 1243.0},
                             {2.2, 62.0, 0.62, 71.0, 1262.0},
                             {0.9, 82.0, 1.35, 34.0, 1226.0},
                             {8.6, 21.0, 0.81, 78.0, 1274.0}};
  const double spread[4][5] = {{0.8, 8.0, 0.15, 11.0, 17.0},
                               {0.6, 7.0, 0.14, 9.0, 14.0},
                               {0.4, 6.0, 0.30, 10.0, 16.0},
                               {1.4, 6.0, 0.18, 8.0, 12.0}};
  const Dataset glazes = demo_set("glazes", 20000, 5);
  right = 0;
  for (std::int64_t row = 0; row < glazes.rows(); ++row) {
    std::array<double, 4> likelihood{};
    for (std::size_t glaze = 0; glaze < 4; ++glaze) {
      for (std::size_t of = 0; of < 5; ++of) {
        const double apart =
            (glazes.features.at({row, static_cast<std::int64_t>(of)}) - mean[glaze][of]) /
            spread[glaze][of];
        likelihood[glaze] -= apart * apart / 2.0 + std::log(spread[glaze][of]);
      }
    }
    const auto best = std::ranges::max_element(likelihood) - likelihood.begin();
    right += glazes.classes.at({row}) == static_cast<double>(best) ? 1 : 0;
  }
  EXPECT_NEAR(static_cast<double>(right) / 20000.0, 0.965, 0.005);
}

TEST(demo_sets, come_at_any_size_from_any_seed) {
  EXPECT_EQ(demo_set("shrinkage", 7, 3).rows(), 7);
  EXPECT_EQ(demo_set("shrinkage", 7, 3).features, demo_set("shrinkage", 7, 3).features);
  EXPECT_FALSE(demo_set("shrinkage", 7, 3).features == demo_set("shrinkage", 7, 4).features);
  EXPECT_THROW(static_cast<void>(demo_set("shrinkage", 0, 3)), SettingError);
  try {
    static_cast<void>(demo_set("kilm"));
    FAIL();
  } catch (const NameError& error) {
    EXPECT_EQ(error.trouble().remedy, "did you mean kiln?");
  }
}

}  // namespace
}  // namespace lattice
