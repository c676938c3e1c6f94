#include "lattice/graphs/graph.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <set>

#include "lattice/lattice.hpp"
#include "support/said.hpp"

namespace lattice {
namespace {

using ::testing::AllOf;
using ::testing::ElementsAre;
using ::testing::HasSubstr;
using ::testing::IsEmpty;
using ::testing::SizeIs;

/// Six people of two kinds: three in a row, two that are joined, and one alone.
Dataset six(const std::vector<Edge>& edges = {{0, 1}, {1, 2}, {3, 4, 0.5}},
            const EdgeSettings& settings = {.names = {"Ada", "Bo", "Cy", "Dot", "Eve", "Flo"},
                                            .known = {0, 2}}) {
  return graph_of(dataset_of_classes(each_its_own(6), tensor({0, 0, 1, 1, 1, 0}),
                                     {.name = "six", .classes = {"hill", "river"}}),
                  edges, settings);
}

TEST(graph, has_the_nodes_of_a_dataset_and_what_each_takes_from) {
  const Dataset graph = six();
  EXPECT_TRUE(graph.is_connected());
  EXPECT_EQ(graph.features.shape().role(0), Role::node);
  EXPECT_EQ(graph.classes.shape().role(0), Role::node);
  EXPECT_EQ(graph.feature_names, graph.row_names);
  EXPECT_EQ(graph.row_name(3), "Dot");
  EXPECT_EQ(graph.axis_names().label(Role::node, 1), "1 Bo");
  const Tensor& A = *adjacency_of(graph);
  EXPECT_EQ(A.shape().role(1), Role::node);
  EXPECT_EQ(A.at({1, 0}), 1.0);
  EXPECT_EQ(A.at({0, 1}), 1.0);
  EXPECT_EQ(A.at({4, 3}), 0.5);
  EXPECT_EQ(stored_count(A), 6);
  EXPECT_THAT(edges_of(graph), ElementsAre(Edge{0, 1}, Edge{1, 2}, Edge{3, 4, 0.5}));
  EXPECT_EQ(adjacency_of(demo_set("kiln")), nullptr);
  EXPECT_THROW(static_cast<void>(edges_of(demo_set("kiln"))), ShapeError);
}

TEST(graph, has_edges_that_lead_one_way_where_it_is_directed) {
  const Dataset graph = six({{0, 1}, {2, 1}, {1, 2, 3.0}}, {.directed = true});
  const Tensor& A = *adjacency_of(graph);
  EXPECT_EQ(A.at({1, 0}), 1.0);  // Bo takes from Ada
  EXPECT_EQ(A.at({0, 1}), 0.0);
  EXPECT_THAT(edges_of(graph), ElementsAre(Edge{0, 1}, Edge{1, 2, 3.0}, Edge{2, 1}));
  EXPECT_TRUE(facts_of(graph).directed);
}

TEST(graph, knows_a_node_once_however_often_and_in_whatever_order_it_is_told) {
  const Dataset graph = six({{0, 1}}, {.known = {3, 1, 3}});
  EXPECT_THAT(graph.known, ElementsAre(1, 3));
  EXPECT_TRUE(graph.is_known(3));
  EXPECT_FALSE(graph.is_known(2));
  EXPECT_THAT(graph.taking(std::vector<std::int64_t>{3, 0, 1}).known, ElementsAre(0, 2));
}

TEST(graph, has_nodes_whose_truth_nobody_knows) {
  const Dataset graph = six({{0, 1}}, {.known = {0, 2}, .unlabelled = {5, 1, 5}});
  EXPECT_THAT(graph.unlabelled, ElementsAre(1, 5));
  EXPECT_FALSE(graph.has_truth(5));
  EXPECT_TRUE(graph.has_truth(4));
  EXPECT_EQ(graph.row_weight(1), 0.0);
  EXPECT_EQ(graph.row_weight(2), 1.0);
  EXPECT_THAT(graph.taking(std::vector<std::int64_t>{5, 0, 1}).unlabelled, ElementsAre(0, 2));
  EXPECT_NE(fingerprint(graph), fingerprint(six({{0, 1}}, {.known = {0, 2}})));
  EXPECT_THAT(RowSet(graph).class_sizes(), ElementsAre(1, 3));
  const Dataset all_known = six({{0, 1}}, {.unlabelled = {5, 1}});
  EXPECT_EQ(all_known.known_count(), 4);
  EXPECT_TRUE(all_known.is_known(0));
  EXPECT_FALSE(all_known.is_known(5));
  EXPECT_EQ(graph.known_count(), 2);
  EXPECT_THAT(testing::said<IndexError>([] {
                static_cast<void>(six({{0, 1}}, {.known = {0, 2}, .unlabelled = {2}}));
              }),
              HasSubstr("node 2 is known and unlabelled at once"));
  EXPECT_THROW(six({{0, 1}}, {.unlabelled = {-1}}), IndexError);
}

TEST(graph, leaves_loops_out_and_counts_an_edge_once) {
  const Dataset graph = six({{0, 1}, {1, 0}, {0, 1}, {2, 2}});
  EXPECT_THAT(edges_of(graph), ElementsAre(Edge{0, 1}));
  EXPECT_EQ(adjacency_of(graph)->at({0, 1}), 1.0);
}

TEST(graph, tells_how_it_hangs_together) {
  const GraphFacts facts = facts_of(six());
  EXPECT_EQ(facts.nodes, 6);
  EXPECT_EQ(facts.edges, 3);
  EXPECT_FALSE(facts.directed);
  EXPECT_EQ(facts.components, 3);
  EXPECT_THAT(facts.alone, ElementsAre(5));
  EXPECT_THAT(facts.without_known, ElementsAre(3));
  EXPECT_EQ(facts_of(demo_set("studios")).components, 1);
}

TEST(graph, refuses_what_is_none) {
  EXPECT_THAT(testing::said<IndexError>([] {
                six({{0, 1}, {0, 6}});
              }),
              AllOf(HasSubstr("there is no node 6"), HasSubstr("edge 1, from 0 to 6"),
                    HasSubstr("0 to 5")));
  EXPECT_THROW(six({{-1, 0}}), IndexError);
  for (const double weight : {0.0, -1.0, std::nan("")})
    EXPECT_THROW(six({{0, 1, weight}}), NumberError);
  EXPECT_THAT(
      testing::said<NumberError>([] {
        six({{0, 1, 2.0}, {1, 0, 3.0}});
      }),
      AllOf(HasSubstr("an edge is listed twice with different weights"), HasSubstr("directed")));
  EXPECT_THAT(testing::said<NameError>([] {
                six({{0, 1}}, {.names = {"Ada", "Bo", "Ada", "Dot", "Eve", "Flo"}});
              }),
              AllOf(HasSubstr("two nodes are called 'Ada'"), HasSubstr("nodes 0 and 2")));
  EXPECT_THROW(six({{0, 1}}, {.names = {"Ada"}}), ShapeError);
  EXPECT_THROW(six({{0, 1}}, {.known = {6}}), IndexError);
  EXPECT_THROW(static_cast<void>(graph_of(demo_set("tiles", 6, 1), {{0, 1}})), ShapeError);
}

TEST(graph, of_some_of_its_nodes_has_the_edges_among_them) {
  const Dataset some = six().taking(std::vector<std::int64_t>{2, 1, 4});
  EXPECT_THAT(some.row_names, ElementsAre("Cy", "Bo", "Eve"));
  EXPECT_THAT(some.known, ElementsAre(0));
  EXPECT_THAT(edges_of(some), ElementsAre(Edge{0, 1}));
}

TEST(graph, is_told_apart_by_its_edges) {
  EXPECT_NE(fingerprint(six()), fingerprint(six({{0, 1}, {1, 2}, {3, 4}})));
  EXPECT_NE(fingerprint(six()), fingerprint(six({{0, 1}, {1, 3}, {3, 4, 0.5}})));
  EXPECT_EQ(fingerprint(six()), fingerprint(six()));
}

TEST(row_set, of_a_graph_is_the_whole_of_it_with_others_that_do_not_count) {
  const RowSet some(six().with_row_weights(tensor({1, 1, 3, 1, 1, 1})), {0, 2});
  const Batch batch = some.all();
  EXPECT_TRUE(batch.is_whole);
  EXPECT_THAT(batch.rows, ElementsAre(0, 2));
  EXPECT_EQ(batch.features.shape(), (Shape{6, 6}));
  EXPECT_EQ(batch.classes.count(), 6);
  EXPECT_THAT(find_side(batch.side, row_weights_name)->numbers(), ElementsAre(1, 0, 3, 0, 0, 0));
  EXPECT_EQ(batch.total_weight(), 4.0);
  EXPECT_EQ(batch.place_of(1), 2);
  EXPECT_THAT(batch.of_rows(tensor({10, 11, 12, 13, 14, 15})).numbers(), ElementsAre(10, 12));
  EXPECT_NE(find_side(batch.side, adjacency_name), nullptr);
}

TEST(split, of_a_graph_learns_from_what_is_known_and_tests_by_the_others) {
  Random random(1);
  const Split known = split(six(), {}, random);
  EXPECT_THAT(known.train.rows(), ElementsAre(0, 2));
  EXPECT_THAT(known.test.rows(), SizeIs(4));
  EXPECT_FALSE(known.has(DataPart::validation));
  const Split halves = split(six(), {.validation = 0.5}, random);
  EXPECT_EQ(halves.validation.count(), 2);
  EXPECT_EQ(halves.test.count(), 2);
  EXPECT_THAT(
      testing::said<SettingError>([&] { static_cast<void>(split(six(), {.train = 0.5}, random)); }),
      HasSubstr("training uses the known labels"));
}

TEST(split, draws_so_many_of_each_class_where_that_is_asked) {
  std::set<std::vector<std::int64_t>> drawn;
  for (std::uint64_t seed = 1; seed <= 20; ++seed) {
    Random random(seed);
    const Split one = split(six(), {.known = 1}, random);
    EXPECT_THAT(one.train.class_sizes(), ElementsAre(1, 1));
    EXPECT_EQ(one.test.count(), 4);
    drawn.insert(one.train.rows());
  }
  EXPECT_GT(drawn.size(), 3U);
  Random random(1);
  const Split in_order = split(six(), {.shuffled = false, .known = 2}, random);
  EXPECT_THAT(in_order.train.rows(), ElementsAre(0, 1, 2, 3));
  EXPECT_THAT(
      testing::said<SettingError>([&] { static_cast<void>(split(six(), {.known = 4}, random)); }),
      HasSubstr("at most 3 of hill"));
  EXPECT_THROW(static_cast<void>(split(six(), {.known = 0}, random)), SettingError);
  EXPECT_THROW(static_cast<void>(split(demo_set("kiln"), {.known = 1}, random)), SettingError);
}

TEST(split, deals_out_no_node_unlabelled) {
  const Dataset graph = six({{0, 1}}, {.unlabelled = {1, 3}});
  for (std::uint64_t seed = 1; seed <= 10; ++seed) {
    Random random(seed);
    for (const SplitSettings& settings :
         {SplitSettings{.train = 0.5, .validation = 0.25, .test = 0.25},
          SplitSettings{.train = 0.5, .validation = 0.0, .test = 0.5, .stratified = true},
          SplitSettings{.known = 1}}) {
      const SplitRows dealt = split_rows(graph, settings, random);
      std::vector<std::int64_t> all = dealt.train;
      all.insert(all.end(), dealt.validation.begin(), dealt.validation.end());
      all.insert(all.end(), dealt.test.begin(), dealt.test.end());
      EXPECT_THAT(all, ::testing::UnorderedElementsAre(0, 2, 4, 5));
      EXPECT_EQ(dealt.train.size(), 2U);
    }
  }
}

TEST(summary, is_of_what_is_known_to_be_true) {
  const Dataset graph =
      graph_of(dataset_of_numbers(each_its_own(4), tensor({2, 0, 4, 0}), {.targets = {"years"}}),
               {{0, 1}}, {.unlabelled = {1, 3}});
  const NumberSummary years = summarise(graph).numbers.at(0);
  EXPECT_EQ(years.low, 2.0);
  EXPECT_EQ(years.high, 4.0);
  EXPECT_EQ(years.mean, 3.0);
  EXPECT_EQ(years.standard_deviation, 1.0);
}

TEST(remarks, tell_of_nodes_alone_and_of_pieces_without_a_label) {
  Random random(1);
  const std::vector<Remark> remarks = remarks_on(split(six(), {}, random));
  ASSERT_THAT(remarks, SizeIs(2));
  EXPECT_EQ(remarks[0].code, "nodes-alone");
  EXPECT_THAT(remarks[0].text, HasSubstr("1 node without an edge (Flo)"));
  EXPECT_EQ(remarks[1].code, "component-without-label");
  EXPECT_THAT(remarks[1].text, HasSubstr("that of Dot"));
  EXPECT_THAT(remarks_on(split(demo_set("studios"), {}, random)), IsEmpty());
}

TEST(remarks, tell_where_no_part_looks_at_the_edges) {
  const Dataset studios = demo_set("studios");
  const auto codes_of = [&](const Dataset& data, const std::string& blueprint) {
    std::string codes;
    for (const Remark& remark : remarks_on(Network(data.example(), blueprint, Random(1)), data))
      codes += remark.code;
    return codes;
  };
  EXPECT_EQ(codes_of(studios, "A: dense 4"), "edges-unused");
  EXPECT_EQ(codes_of(studios, "dense 4, residual (neighbours, dense 4)"), "");
  EXPECT_EQ(codes_of(demo_set("glazes", 20, 1), "dense 4"), "");
}

TEST(studios, are_as_large_as_one_likes) {
  const Dataset many = demo_set("studios", 500, 3);
  EXPECT_EQ(many.rows(), 500);
  EXPECT_EQ(many.known.size(), 8U);
  EXPECT_EQ(many.row_name(48), "Ada 2");
  EXPECT_EQ(demo_set("studios", 3, 1).rows(), 3);
}

TEST(subject, is_known_once_however_often_it_is_used) {
  const std::size_t kinds = row_kinds().size();
  const std::size_t sets = demo_sets().size();
  EXPECT_TRUE(use_graphs());
  EXPECT_TRUE(use_graphs());
  EXPECT_EQ(row_kinds().size(), kinds);
  EXPECT_EQ(demo_sets().size(), sets);
}

}  // namespace
}  // namespace lattice
