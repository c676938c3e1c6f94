#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <algorithm>

#include "lattice/data/demo_sets.hpp"
#include "lattice/data/minibatches.hpp"
#include "lattice/data/scaling.hpp"
#include "lattice/files/csv.hpp"
#include "lattice/tensor/error.hpp"
#include "support/process.hpp"

namespace lattice {
namespace {

using ::testing::ElementsAre;

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

TEST(minibatches, refuse_sizes_that_cannot_be) {
  const Dataset kiln = demo_set("kiln");
  Random random(1);
  EXPECT_THROW(minibatches(kiln, {.size = 0}, random), SettingError);
  EXPECT_THROW(minibatches(kiln, {.size = 61}, random), SettingError);
  EXPECT_NO_THROW(minibatches(kiln, {.size = 60}, random));
  EXPECT_THROW(static_cast<void>(take_rows(kiln, {60})), IndexError);
}

TEST(scaling, brings_features_to_mean_0_and_spread_1) {
  const Tensor raw = tensor({{1, 10, 7}, {3, 30, 7}});
  const Scaling scaling = fit_standard_scaling(raw);
  EXPECT_THAT(scaling.centre.numbers(), ElementsAre(2, 20, 7));
  EXPECT_THAT(scaling.spread.numbers(), ElementsAre(1, 10, 1));
  EXPECT_THAT(scaling.scaled(raw).numbers(), ElementsAre(-1, -1, 0, 1, 1, 0));
  EXPECT_THAT(scaling.scaled(tensor({{4, 0, 7}})).numbers(), ElementsAre(2, -2, 0));
  EXPECT_THROW(static_cast<void>(scaling.scaled(tensor({{1, 2}}))), ShapeError);
  EXPECT_THROW(static_cast<void>(fit_standard_scaling(tensor({1, 2}))), ShapeError);
}

TEST(demo_sets, are_the_copies_in_the_demo_folder) {
  for (const DemoSet& set : demo_sets()) {
    const Dataset made = demo_set(set.name);
    const std::string path = std::string(LATTICE_SOURCE "/demo/data/") + set.name + ".csv";
    EXPECT_EQ(to_csv(made), testing::content_of(path));
    const Dataset read = read_csv(path, {.target = made.target_name});
    EXPECT_EQ(read.features, made.features);
    EXPECT_EQ(read.targets, made.targets);
    EXPECT_EQ(made.rows(), set.usual_rows);
  }
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
