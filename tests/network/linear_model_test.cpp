#include "lattice/network/linear_model.hpp"

#include <gtest/gtest.h>

#include "lattice/lattice.hpp"

namespace lattice {
namespace {

TEST(linear_model, starts_with_the_shapes_of_the_data) {
  Random random(1);
  const LinearModel model = LinearModel::start(demo_set("shrinkage"), random);
  EXPECT_EQ(to_string(model.weights["W"].shape()), "[feature 3 × unit 1]");
  EXPECT_EQ(to_string(model.weights["b"].shape()), "[unit 1]");
  EXPECT_EQ(model.weights["b"].number(), 0.0);
  const Dataset single = demo_set("shrinkage").in(Precision::single);
  EXPECT_EQ(LinearModel::start(single, random).weights["W"].precision(), Precision::single);
  const Dataset flat{.name = "flat", .features = ones({3}), .targets = ones({3})};
  EXPECT_THROW(static_cast<void>(LinearModel::start(flat, random)), ShapeError);
}

TEST(linear_model, writes_down_every_step_from_the_features_to_the_cost) {
  Random random(1);
  const Dataset data = demo_set("shrinkage");
  const LinearModel model = LinearModel::start(data, random);
  Worksheet sheet;
  const Line cost = model.write_down(sheet, take_rows(data, {0, 1, 2, 3}));
  std::string names;
  for (const Line& line : sheet.lines())
    names += line.name() + " ";
  EXPECT_EQ(names, "x y W b #5 z e s m cost ");
  EXPECT_EQ(to_string(sheet.line("z").shape()), "[example 4 × unit 1]");
  EXPECT_EQ(sheet.line("z").section(), "forward");
  EXPECT_EQ(sheet.line("e").section(), "cost");
  EXPECT_EQ(cost.symbols(), "0.5 × m");
}

TEST(linear_model, gives_the_same_bits_line_by_line_and_briefly) {
  const Dataset data = demo_set("shrinkage");
  for (std::uint64_t seed = 0; seed < 30; ++seed) {
    Random random(seed);
    LinearModel model = LinearModel::start(data, random);
    const Batch raw = take_rows(data, random.shuffled(1 + random.below(100)));
    model.scaling = fit_standard_scaling(data.features);
    Batch scaled = raw;
    scaled.features = model.scaling->scaled(raw.features);

    Worksheet long_sheet;
    Worksheet brief_sheet;
    const Line at_length = model.write_down(long_sheet, raw);
    const Line briefly = model.write_down_briefly(brief_sheet, scaled);
    EXPECT_EQ(at_length.value(), briefly.value()) << seed;
    EXPECT_EQ(long_sheet.line("x").value(), scaled.features);
    const Gradients one = reverse_sweep(at_length);
    const Gradients other = reverse_sweep(briefly);
    EXPECT_EQ(one["W"], other["W"]) << seed;
    EXPECT_EQ(one["b"], other["b"]) << seed;
  }
}

}  // namespace
}  // namespace lattice
