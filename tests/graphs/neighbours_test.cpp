#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include "lattice/lattice.hpp"
#include "support/said.hpp"

namespace lattice {
namespace {

using ::testing::AllOf;
using ::testing::HasSubstr;

/// A pass of all potters through a network.
Line pass_through(Worksheet& sheet, const Network& network, const Dataset& graph) {
  const Batch batch = RowSet(graph).all();
  return network.forward(sheet, write_given(sheet, batch).x);
}

TEST(neighbours, multiply_by_the_shares_which_are_written_down_once) {
  const Dataset studios = demo_set("studios");
  Random random(1);
  const Network net(studios.example(),
                    "neighbours, dense 5 without bias, tanh, neighbours, dense 4", random);
  Worksheet sheet;
  const Line scores = pass_through(sheet, net, studios);
  EXPECT_EQ(sheet.line("neighbours").symbols(), "shares·x");
  EXPECT_EQ(sheet.line("neighbours2").symbols(), "shares·tanh");
  EXPECT_EQ(sheet.line("shares").section(), "graph");
  EXPECT_EQ(sheet.line("neighbours").section(), "neighbours");
  EXPECT_EQ(scores.shape(), (Shape{48, 4}));
  EXPECT_EQ(scores.shape().role(0), Role::node);
  const Tensor shares = normalised_adjacency(*adjacency_of(studios));
  const Tensor hidden = tanh(matmul(matmul(shares, studios.features.all()), net["hidden.weight"]));
  const Tensor by_hand = matmul(matmul(shares, hidden), net["output.weight"]) + net["output.bias"];
  EXPECT_TRUE(agreement(scores.value(), by_hand, 1e-14).agrees);
}

TEST(neighbours, are_read_from_a_blueprint_and_keep_the_shape) {
  const Plan planned = plan(Shape{7}, parse_blueprint("neighbours, dense 3, neighbours"));
  EXPECT_EQ(planned.rows[0].outputs, (Shape{7}));
  EXPECT_EQ(planned.rows[0].weights, 0);
  EXPECT_EQ(planned.rows[2].name, "neighbours2");
  EXPECT_EQ(blueprint_of(parse_blueprint("residual(neighbours, dense 7)")),
            "residual(neighbours, dense 7)");
  EXPECT_THAT(testing::said<ShapeError>([] {
                static_cast<void>(plan(Shape{4, 4, 1}, parse_blueprint("neighbours")));
              }),
              AllOf(HasSubstr("a row of numbers"), HasSubstr("flatten in front of it")));
  EXPECT_THROW(static_cast<void>(parse_blueprint("neighbours 3")), SettingError);
}

TEST(neighbours, say_what_is_missing_where_there_is_no_graph) {
  Random random(1);
  const Dataset glazes = demo_set("glazes", 20, 1);
  const Network net(glazes.example(), "neighbours, dense 4", random);
  Worksheet sheet;
  EXPECT_THAT(
      testing::said<NameError>([&] { static_cast<void>(pass_through(sheet, net, glazes)); }),
      AllOf(HasSubstr("neighbours needs the side input 'A'"), HasSubstr("graph_of")));
}

TEST(neighbours, may_stand_in_a_group_and_be_given_shares_of_ones_own) {
  const Dataset studios = demo_set("studios");
  Random random(1);
  const Network net(studios.example(), "dense 4, residual (neighbours, dense 4)", random);
  Worksheet sheet;
  const Line x = sheet.given("x", studios.features.all());
  static_cast<void>(sheet.given("shares", identity(48)));
  const Line scores = net.forward(sheet, x);
  EXPECT_FALSE(sheet.find("looped"));
  EXPECT_EQ(scores.shape(), (Shape{48, 4}));
}

TEST(neighbours, are_not_misled_by_a_part_that_is_called_like_their_lines) {
  const Dataset studios = demo_set("studios");
  Random random(1);
  const Network plain(studios.example(), "dense 48, neighbours, dense 4, neighbours", random);
  Network misleading(studios.example(), "shares: dense 48, neighbours, A: dense 4, neighbours",
                     random);
  misleading.set("shares.weight", plain["hidden.weight"]);
  misleading.set("A.weight", plain["output.weight"]);
  Worksheet one;
  Worksheet other;
  EXPECT_EQ(pass_through(one, misleading, studios).value(),
            pass_through(other, plain, studios).value());
}

TEST(neighbours, take_a_directed_graph_one_way) {
  Dataset studios = demo_set("studios");
  const Dataset one_way = graph_of(studios, {{0, 1}, {1, 2}}, {.directed = true});
  Random random(2);
  const Network net(studios.example(), "neighbours", random);
  Worksheet sheet;
  const Tensor moved = pass_through(sheet, net, one_way).value();
  EXPECT_NEAR(moved.at({1, 0}), 1.0 / std::sqrt(2.0 * 2.0), 1e-15);
  EXPECT_EQ(moved.at({0, 1}), 0.0);
  EXPECT_TRUE(sheet.find("scale.out"));
}

TEST(neighbours, are_planned_for_the_whole_graph_at_once) {
  const Dataset studios = demo_set("studios");
  const Network net(studios.example(),
                    "neighbours, dense 5 without bias, tanh, neighbours, dense 4", Random(1));
  const Tensor& adjacency = *adjacency_of(studios);
  const Tensor& features = studios.features.all();
  const Plan planned = plan_over(net.plan(), adjacency, features);
  EXPECT_EQ(planned.together, 48);
  // Each node is its own feature: as few numbers as shares go into the first product. Behind it
  // there are as many products as shares times numbers of a node.
  const std::int64_t shares = stored_count(normalised_adjacency(adjacency));
  EXPECT_EQ(planned.rows[0].multiplications, shares);
  EXPECT_EQ(planned.rows[1].multiplications, shares * 5);
  EXPECT_EQ(planned.rows[3].multiplications, shares * 5);
  EXPECT_EQ(planned.rows[4].multiplications, 48 * 5 * 4);
  EXPECT_EQ(planned.multiplications(), shares * 11 + 48 * 5 * 4);
  EXPECT_EQ(planned.weights(), net.plan().weights());
  // What is written is what a pass leaves on the worksheet, in groups, too, and where features are
  // measured.
  const auto expect_as_written = [&](const Dataset& graph, const char* blueprint) {
    const Network network(graph.example(), blueprint, Random(1));
    Worksheet sheet;
    static_cast<void>(pass_through(sheet, network, graph));
    std::int64_t written = 0;
    for (const Line& line : sheet.lines()) {
      const bool goes_through = line.kind() == Line::Kind::calculated || line.name() == "x" ||
                                line.name() == adjacency_name;
      written += goes_through ? stored_count(line.value()) : 0;
    }
    EXPECT_EQ(plan_over(network.plan(), adjacency, graph.features.all()).written(), written)
        << blueprint;
  };
  Dataset measured = studios;
  Random random(2);
  measured.features = normal({48, 6}, 0.0, 1.0, random).with({Role::node, Role::feature});
  for (const char* const blueprint :
       {"neighbours, dense 5 without bias, tanh, neighbours, dense 4", "dense 4",
        "2 times (neighbours, dense 6, tanh), dense 4", "neighbours, neighbours, dense 4"}) {
    expect_as_written(studios, blueprint);
    expect_as_written(measured, blueprint);
  }
  EXPECT_EQ(plan_over(Network(Shape{6}, "neighbours, dense 5", Random(1)).plan(), adjacency,
                      measured.features.all())
                .multiplications(),
            shares * 6 + 48 * 6 * 5);
}

}  // namespace
}  // namespace lattice
