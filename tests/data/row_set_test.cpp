#include "lattice/data/row_set.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include "data/prepared_rows.hpp"
#include "lattice/core.hpp"
#include "support/pictures.hpp"
#include "support/said.hpp"

namespace lattice {
namespace {

using ::testing::ElementsAre;
using ::testing::HasSubstr;

Dataset five_pots() {
  return dataset_of_numbers(tensor({{1, 10}, {2, 20}, {3, 30}, {4, 40}, {5, 50}}),
                            tensor({0.1, 0.2, 0.3, 0.4, 0.5}), {.name = "pots"});
}

TEST(row_set, is_a_whole_dataset_or_some_rows_in_an_order) {
  const RowSet all = five_pots();
  EXPECT_EQ(all.count(), 5);
  EXPECT_EQ(all.features(), five_pots().features);
  const RowSet some(five_pots(), {4, 0, 4});
  EXPECT_THAT(some.rows(), ElementsAre(4, 0, 4));
  EXPECT_THAT(some.features().numbers(), ElementsAre(5, 50, 1, 10, 5, 50));
  EXPECT_THAT(some.targets().numbers(), ElementsAre(0.5, 0.1, 0.5));
  EXPECT_THAT(some.from(1, 2).rows, ElementsAre(0, 4));
  const std::vector<std::int64_t> places = {2, 1};
  EXPECT_THAT(some.at(places).rows, ElementsAre(4, 0));
  EXPECT_THAT(some.taking(places).rows(), ElementsAre(4, 0));
  EXPECT_TRUE(RowSet().empty());
  EXPECT_TRUE(RowSet().all().rows.empty());
}

TEST(row_set, knows_its_rows_sorted) {
  const Dataset pots = demo_set("kiln", 12, 1);
  EXPECT_THAT(RowSet(pots, {7, 2, 11, 2, 0}).sorted_rows(), ElementsAre(0, 2, 2, 7, 11));
  EXPECT_EQ(RowSet(pots).sorted_rows(), RowSet(pots).rows());
  EXPECT_TRUE(RowSet().sorted_rows().empty());
}

TEST(row_set, shares_the_memory_of_its_dataset) {
  const Dataset pots = five_pots();
  const RowSet all = pots;
  EXPECT_EQ(all.data().features.all().data<double>(), pots.features.all().data<double>());
  EXPECT_EQ(all.features().data<double>(), pots.features.all().data<double>());
  const std::vector<std::int64_t> places = {1};
  EXPECT_EQ(&all.taking(places).data(), &all.data());
}

TEST(row_set, refuses_rows_that_are_not_there) {
  EXPECT_THROW(RowSet(five_pots(), {0, 5}), IndexError);
  EXPECT_THROW(RowSet(five_pots(), {-1}), IndexError);
  const std::vector<std::int64_t> places = {3};
  EXPECT_THROW(static_cast<void>(RowSet(five_pots(), {1, 2, 3}).at(places)), IndexError);
}

TEST(row_set, prepares_each_batch_and_leaves_the_dataset_as_it_is) {
  const Dataset pots = five_pots();
  const Preparation standard = fit({{}}, pots.features);
  const RowSet prepared = RowSet(pots, {3, 1}).prepared_by(standard);
  EXPECT_EQ(prepared.features(), standard.prepared(tensor({{4, 40}, {2, 20}})));
  EXPECT_EQ(prepared.as_measured().features(), tensor({{4, 40}, {2, 20}}));
  EXPECT_EQ(prepared.data().features, pots.features);
}

TEST(side_input, goes_with_its_rows_or_as_a_whole) {
  Dataset pots = five_pots().with_row_weights(tensor({1, 0, 2, 0.5, 3}));
  pots.side.push_back({.name = "edges", .value = tensor({{0, 1, 1.0}})});
  const Batch batch = RowSet(pots, {4, 2}).all();
  EXPECT_THAT(find_side(batch.side, row_weights_name)->numbers(), ElementsAre(3, 2));
  EXPECT_EQ(*find_side(batch.side, "edges"), tensor({{0, 1, 1.0}}));
  EXPECT_EQ(find_side(batch.side, "nothing"), nullptr);
  EXPECT_EQ(batch.total_weight(), 5.0);
  EXPECT_EQ(RowSet(five_pots()).all().total_weight(), 5.0);
  EXPECT_EQ(pots.row_weight(3), 0.5);
  EXPECT_EQ(five_pots().row_weight(3), 1.0);
  const std::vector<std::int64_t> rows = {1, 0};
  EXPECT_EQ(pots.taking(rows).row_weight(0), 0.0);
}

TEST(side_input, of_how_much_rows_count_has_to_be_one) {
  const auto said = [](const Tensor& numbers) {
    return testing::said([&] { return five_pots().with_row_weights(numbers); });
  };
  EXPECT_THAT(said(tensor({1, 2})), HasSubstr("one number per row"));
  EXPECT_THAT(said(tensor({1, 1, -1, 1, 1})), HasSubstr("row 2"));
  EXPECT_THAT(said(zeros({5})), HasSubstr("no row counts"));
  EXPECT_THAT(said(tensor({1, 1, std::nan(""), 1, 1})), HasSubstr("row 2"));
  EXPECT_EQ(said(tensor({1, 0, 0, 0, 0})), "nothing");
}

TEST(dataset, has_examples_of_any_shape) {
  const Dataset bars = testing::bars(6);
  EXPECT_EQ(to_string(bars.example()), "[row 4 × column 5 × channel 2]");
  EXPECT_FALSE(bars.is_table());
  EXPECT_EQ(bars.feature_count(), 0);
  EXPECT_TRUE(bars.all_feature_names().empty());
  EXPECT_TRUE(bars.columns_or_features().empty());
  const RowSet some(bars, {5, 2});
  EXPECT_EQ(to_string(some.features().shape()), "[example 2 × row 4 × column 5 × channel 2]");
  EXPECT_EQ(to_string(five_pots().example()), "[feature 2]");
  const DataSummary summary = summarise(bars);
  ASSERT_EQ(summary.features.size(), 2U);
  EXPECT_EQ(summary.features[1].name, "channel 1");
  EXPECT_NEAR(summary.features[1].mean, 10.0, 0.5);
  EXPECT_GT(summary.features[0].high, 25.0);
}

// Bytes are scaled as they become numbers, with the bits of doing one after the other.
TEST(row_set, scales_bytes_with_the_bits_of_scaling_numbers) {
  Random random(5);
  const Shape shape =
      Shape{40, 5, 7, 3}.with({Role::example, Role::row, Role::column, Role::channel});
  std::vector<std::uint8_t> bytes(static_cast<std::size_t>(shape.count()));
  for (std::uint8_t& byte : bytes)
    byte = static_cast<std::uint8_t>(random.below(256));
  const std::vector<std::int64_t> rows = {7, 0, 39, 7};
  for (const Precision precision : {Precision::double_, Precision::single}) {
    const Examples examples = Examples::of_bytes(shape, bytes, precision);
    for (const std::vector<ScalingSettings>& steps :
         {std::vector<ScalingSettings>{{.by = ScaledBy::channel}},
          std::vector<ScalingSettings>{{.kind = ScalingKind::min_max, .by = ScaledBy::whole}},
          std::vector<ScalingSettings>{{.kind = ScalingKind::less_mean}, {.by = ScaledBy::channel}},
          std::vector<ScalingSettings>{
              {.kind = ScalingKind::known, .by = ScaledBy::whole, .less = 127.5, .over = 127.5}}}) {
      const Preparation preparation = fit(steps, examples.all());
      const Tensor direct = prepared_rows(preparation, examples, rows);
      EXPECT_EQ(direct, preparation.prepared(examples.rows(rows)));
      // And those of arithmetic on whole tensors.
      Tensor by_hand = examples.rows(rows);
      for (const Scaling& step : preparation.steps)
        by_hand = (by_hand - step.centre) / step.divisor;
      EXPECT_EQ(direct, by_hand);
      EXPECT_EQ(to_string(direct.shape()), to_string(by_hand.shape()));
    }
  }
}

}  // namespace
}  // namespace lattice
