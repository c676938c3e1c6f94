#include "lattice/network/grouping_layers.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include "lattice/core.hpp"
#include "support/said.hpp"

namespace lattice {
namespace {

using ::testing::ElementsAre;
using ::testing::HasSubstr;
using testing::said;

TEST(group, of_parts_is_one_part_and_a_loop_makes_many) {
  std::vector<Layer> layers = {Dense{.outputs = 8}};
  for (int i = 0; i < 3; ++i)
    layers.emplace_back(Block({Dense{.outputs = 8}, Normalise{}, Tanh{}}));
  layers.emplace_back(Dense{.outputs = 4});
  const Network by_loop(Shape{5}, layers, Random(1));
  const std::string text = "dense 8, 3 times (dense 8, normalise, tanh), dense 4";
  EXPECT_EQ(by_loop.blueprint(), text);
  const Network by_text(Shape{5}, text, Random(1));
  Random random(2);
  const Tensor x = normal({6, 5}, 0, 1, random);
  EXPECT_EQ(by_loop(x), by_text(x));
  EXPECT_EQ(to_string(by_text["block2.hidden.weight"].shape()), "[unit 8 × unit 8]");
  // Each draws numbers of its own.
  EXPECT_NE(by_text["block2.hidden.weight"], by_text["block3.hidden.weight"]);
}

TEST(group, is_the_same_as_its_parts_in_a_row) {
  Network grouped(Shape{3}, "2 times (dense 3, tanh), dense 2", Random(1));
  Network flat(Shape{3}, "dense 3, tanh, dense 3, tanh, dense 2", Random(1));
  for (const auto& [to, from] : std::vector<std::pair<const char*, const char*>>{
           {"block.hidden", "hidden"}, {"block2.hidden", "hidden2"}, {"output", "output"}}) {
    for (const char* of : {".weight", ".bias"})
      grouped.set(std::string(to) + of, flat[std::string(from) + of]);
  }
  Random random(2);
  const Tensor x = normal({4, 3}, 0, 1, random);
  EXPECT_EQ(grouped(x), flat(x));
  EXPECT_EQ(grouped.plan().weights(), flat.plan().weights());
  EXPECT_EQ(grouped.plan().multiplications(), flat.plan().multiplications());
}

TEST(group, is_numbered_behind_its_name) {
  const Network net(Shape{3}, "stage: 3 times (dense 3), last: 2 times dense 3", Random(1));
  std::vector<std::string> names;
  for (const Plan::Row& row : net.plan().rows)
    names.push_back(row.name);
  EXPECT_THAT(names, ElementsAre("stage", "stage2", "stage3", "last", "last2"));
  EXPECT_EQ(net.blueprint(), "stage: 3 times (dense 3), last: dense 3, last2: dense 3");
  // Groups of one kind are told apart where they are not called one after the other.
  const std::string others = "a: (dense 3), c: (dense 3), (dense 3), 2 times (dense 2)";
  EXPECT_EQ(Network(Shape{3}, others, Random(1)).blueprint(), others);
}

TEST(group, refuses_what_cannot_be_taken_so_often) {
  const std::vector<std::pair<std::string, std::string>> wrong = {
      {"0 times dense 4", "»0«"},
      {"-2 times (dense 4)", "cannot be taken -2 times"},
      {"1.5 times dense 4", "»1.5«"},
      {"many times dense 4", "'many' cannot be the number of repetitions"},
      {"3 times", "a layer is missing"},
      {"2 times 3 times relu", "»3«"},
      {"100 times (101 times relu)", "»100« times (101"},
      {"100000 times (100000 times (100000 times relu))", "too many layers"},
      {"()", "')' is not a layer"},
      {"(dense 4", "')' is missing"},
      {"9: 2 times relu", "»9«"}};
  for (const auto& [text, layer] : wrong)
    EXPECT_THAT(said<SettingError>([&text = text] { (void)parse_blueprint(text); }),
                HasSubstr(layer))
        << text;
  EXPECT_EQ(parse_blueprint("99 times (100 times relu)").size(), 99U);
  EXPECT_THAT(said<SettingError>([&] { (void)parse_blueprint(std::string(60, '(') + "relu"); }),
              HasSubstr("nested too deeply"));
  EXPECT_THAT(said<SettingError>([] { (void)Block({}); }), HasSubstr("a group of no layers"));
}

TEST(residual, takes_what_comes_in_through_a_part_of_its_own_where_shapes_differ) {
  const Network net(Shape{3}, "residual(dense 4, tanh) with projection dense 4 without bias",
                    Random(1));
  Random random(2);
  const Tensor x = normal({5, 3}, 0, 1, random);
  const Tensor through =
      tanh(matmul(x, net["residual.hidden.weight"]) + net["residual.hidden.bias"]);
  EXPECT_EQ(net(x), matmul(x, net["residual.projection.weight"]) + through);
  EXPECT_EQ(net.plan().rows[0].weights, 3 * 4 + 4 + 3 * 4);
  EXPECT_EQ(net.plan().rows[0].projection.front().name, "residual.projection");
  EXPECT_EQ(net.plan().rows[0].multiplications, 2 * 3 * 4);
}

TEST(residual, with_a_projection_is_written_as_it_is_read) {
  for (const std::string text : {"residual(dense 4, tanh) with projection dense 4",
                                 "residual(dense 4) with projection (dense 4, normalise)",
                                 "residual(dense 4) with projection way: dense 4",
                                 "2 times residual(tanh) with projection dense 3"}) {
    EXPECT_EQ(Network(Shape{3}, text, Random(1)).blueprint(), text);
  }
  const Network own(Shape{3}, "residual(dense 4) with projection way: dense 4", Random(1));
  EXPECT_NO_THROW((void)own["residual.way.weight"]);
  EXPECT_THAT(said<SettingError>(
                  [] { (void)parse_blueprint("residual(projection: relu) with projection relu"); }),
              HasSubstr("two layers are called 'projection'"));
  EXPECT_THAT(said<SettingError>([] { (void)parse_blueprint("residual(relu) with projection"); }),
              HasSubstr("a layer is missing"));
}

TEST(residual, that_does_not_fit_says_which_dense_layer_would) {
  EXPECT_THAT(said<ShapeError>([] { (void)plan(Shape{3}, parse_blueprint("residual(dense 5)")); }),
              HasSubstr("with projection dense 5"));
}

TEST(plan, counts_groups_that_are_alike) {
  const Plan deep = plan(Shape{3}, parse_blueprint("4 times (dense 8, tanh), dense 8, dense 8"));
  const std::span<const Plan::Row> rows(deep.rows);
  EXPECT_EQ(Plan::alike(rows), 1U);  // the first takes 3 numbers, and the others 8
  EXPECT_EQ(Plan::alike(rows.subspan(1)), 3U);
  EXPECT_EQ(Plan::alike(rows.subspan(4)), 1U);  // no groups
}

}  // namespace
}  // namespace lattice
