#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <algorithm>
#include <set>
#include <string>
#include <utility>

#include "lattice/graphs/around/charts.hpp"
#include "lattice/graphs/around/edges.hpp"
#include "lattice/lattice.hpp"
#include "lattice/lessons/prepare.hpp"
#include "lattice/show/charts.hpp"
#include "lattice/show/page.hpp"
#include "support/command.hpp"
#include "support/process.hpp"
#include "support/said.hpp"

namespace lattice {
namespace {

using ::testing::AllOf;
using testing::Folder;
using ::testing::HasSubstr;
using testing::lattice;
using ::testing::Not;

/// Three potters in a row, the second of which is answered wrongly.
Dataset three() {
  return graph_of(dataset_of_classes(each_its_own(3), tensor({0, 1, 0}),
                                     {.name = "three", .classes = {"hill", "river"}}),
                  {{0, 1}, {1, 2}}, {.names = {"Ada", "Bo", "Cy"}, .known = {0}});
}
NodesMoment a_moment(const std::string& title = "now") {
  return {.title = title, .places = tensor({{0, 0}, {5, 1}, {9, 4}}), .answers = tensor({0, 0, 0})};
}

/// What stands in a block of data of a script.
std::string rows_in(const std::string& script, const std::string& name) {
  const std::string head = "$" + name + " << END_OF_DATA\n";
  const std::size_t at = script.find(head);
  if (at == std::string::npos) return "none";
  const std::size_t from = at + head.size();
  return script.substr(from, script.find("END_OF_DATA", from) - from);
}

TEST(nodes_chart, draws_truth_as_marks_answers_inside_and_rings_around_what_is_known) {
  const Chart chart = nodes_chart("three", three(), {a_moment()});
  const std::string& script = chart.frames().front();
  EXPECT_EQ(rows_in(script, "edges"), "0 0\n5 1\n\n5 1\n9 4\n\n");
  EXPECT_EQ(rows_in(script, "known"), "0 0\n");
  EXPECT_EQ(rows_in(script, "of0"), "0 0\n9 4\n");
  EXPECT_EQ(rows_in(script, "of1"), "5 1\n");
  EXPECT_EQ(rows_in(script, "answer0"), "5 1\n");
  EXPECT_EQ(rows_in(script, "answer1"), "none");
  EXPECT_THAT(script, AllOf(HasSubstr("\"hill\""), HasSubstr("unset tics")));
  EXPECT_THAT(script, HasSubstr("\\061 of \\062 others right"));
}

TEST(nodes_chart, shortens_names_and_leaves_out_those_that_would_lie_over_others) {
  Dataset graph = three();
  graph.row_names = {"The workshop of Ada in the valley", "The workshop of Bo on the hill", "Cy"};
  graph.class_names[0] = "potters on the hill who fire with wood all the year";
  const std::string script = nodes_chart("three", graph, {a_moment()}).frames().front();
  EXPECT_THAT(rows_in(script, "names"), AllOf(HasSubstr("…"), Not(HasSubstr("workshop of Ada"))));
  EXPECT_THAT(script, Not(HasSubstr("who fire with")));
  // Side by side there is less room for each, and one legend is enough.
  const auto lines = [&](double apart) {
    NodesMoment moment = a_moment();
    moment.places = tensor({{0, 0}, {apart, 0.0}, {9, 4}});
    const std::string both = nodes_chart("t", graph, {moment, moment}).frames().front();
    EXPECT_THAT(both, HasSubstr("unset key"));
    const std::string names = rows_in(both, "names");
    return std::ranges::count(names, '\n');
  };
  EXPECT_EQ(lines(1.0), 2);
  EXPECT_EQ(lines(4.0), 3);
  EXPECT_THAT(script, Not(HasSubstr("unset key")));
}

TEST(nodes_chart, draws_nodes_hollow_whose_truth_nobody_knows_with_what_is_answered) {
  Dataset graph = three();
  graph.unlabelled = {2};
  const std::string script = nodes_chart("three", graph, {a_moment()}).frames().front();
  EXPECT_EQ(rows_in(script, "hollow"), "9 4\n");
  EXPECT_EQ(rows_in(script, "of0"), "0 0\n");
  EXPECT_EQ(rows_in(script, "answer0"), "5 1\n9 4\n");
  EXPECT_THAT(script, AllOf(HasSubstr("unlabelled"), HasSubstr("\\060 of \\061 others right")));
  EXPECT_EQ(rows_in(nodes_chart("", three(), {a_moment()}).frames().front(), "hollow"), "none");
}

TEST(nodes_chart, has_axes_where_places_mean_something_and_frames_on_one_scale) {
  const Chart chart = nodes_chart("three", three(), {a_moment("a"), a_moment("b")},
                                  {.as_frames = true, .across_name = "one", .up_name = "two"});
  ASSERT_EQ(chart.frames().size(), 2U);
  EXPECT_THAT(chart.frames()[0],
              AllOf(HasSubstr("set xlabel \"one\""), Not(HasSubstr("unset tics"))));
  EXPECT_EQ(rows_in(chart.frames()[0], "of0"), rows_in(chart.frames()[1], "of0"));
  EXPECT_THROW(static_cast<void>(nodes_chart("", demo_set("kiln"), {a_moment()})), ShapeError);
  EXPECT_THROW(static_cast<void>(nodes_chart("", three(), {{"", zeros({2, 2})}})), ShapeError);
}

TEST(nodes_chart, leaves_out_names_that_would_lie_over_one_another) {
  NodesMoment near = a_moment();
  near.places = tensor({{0, 0}, {0.001, 0.001}, {9, 4}});
  const std::string names = rows_in(nodes_chart("", three(), {near}).frames().front(), "names");
  EXPECT_THAT(names, AllOf(HasSubstr("Ada"), Not(HasSubstr("Bo")), HasSubstr("Cy")));
}

TEST(laid_out, puts_every_node_at_a_place_of_its_own) {
  const Tensor places = laid_out(*adjacency_of(demo_set("studios")));
  EXPECT_EQ(places.shape(), (Shape{48, 2}));
  std::set<std::pair<double, double>> different;
  for (std::int64_t node = 0; node < 48; ++node)
    different.emplace(places.at({node, 0}), places.at({node, 1}));
  EXPECT_EQ(different.size(), 48U);
}

TEST(draw, draws_graphs_and_embeddings_and_says_where_there_are_none) {
  const Folder folder;
  const std::string out = (folder.path() / "picture.png").string();
  const testing::Words studios = {
      "studios", "--net", "neighbours, dense 2 without bias, tanh, dense 4", "--epochs", "2"};
  for (const char* kind : {"nodes", "embedding"}) {
    EXPECT_EQ(lattice(testing::with({"draw", kind, "--out", out}, studios)).status, 0) << kind;
    EXPECT_THAT(testing::content_of(out), HasSubstr("PNG"));
  }
  const auto trouble = [&](const testing::Words& more) {
    return lattice(testing::with({"draw", "embedding", "--out", out}, more)).err;
  };
  EXPECT_THAT(trouble({"kiln"}), HasSubstr("is not a graph"));
  EXPECT_THAT(trouble({"studios", "--net", "neighbours, dense 4", "--epochs", "1"}),
              HasSubstr("no layer gives two numbers"));
  EXPECT_THAT(trouble(testing::with(studios, {"--units", "0,5"})), HasSubstr("has no unit 5"));
  EXPECT_THAT(trouble(testing::with(studios, {"--units", "0"})), HasSubstr("needs two units"));
  EXPECT_THAT(trouble(testing::with(studios, {"--of", "hiden"})), HasSubstr("hidden"));
}

TEST(page, holds_where_the_nodes_of_a_graph_lie) {
  const Folder folder;
  Dataset graph = demo_set("studios", 12, 1);
  // The last that is not known is one of whom nobody knows it.
  for (std::int64_t node = 0; node < graph.rows(); ++node) {
    if (!graph.is_known(node)) graph.unlabelled = {node};
  }
  static_cast<void>(folder.file("nodes.csv", to_csv(graph)));
  static_cast<void>(folder.file("edges.csv", to_csv(edges_table(graph))));
  const Lesson lesson =
      read_lesson(folder.file("graph.toml",
                              "[data]\nfile = \"nodes.csv\"\nedges = \"edges.csv\"\n"
                              "target = \"guild\"\n[split]\nknown = \"known\"\n"
                              "[network]\nnet = \"neighbours, dense 4\"\n"));
  const Prepared prepared = prepare(lesson);
  const std::string html = page(prepared.work(std::vector<std::int64_t>{1}));
  EXPECT_THAT(html, AllOf(HasSubstr("\"places\":[["), HasSubstr("\"node\":[\"Ada\",")));
  const std::string path = folder.file("graph.html", html);
  const Json shown = testing::json_of(testing::run_program(
      "/usr/bin/python3", {LATTICE_SOURCE "/tests/support/nodes_in_browser.py", path,
                           "neighbours[0,0]", "A[0,1]", "output.bias[0]"}));
  EXPECT_EQ(shown["console"], Json::array());
  const Tensor shares = normalised_adjacency(*adjacency_of(graph));
  const Json& first = shown["seen"][0];
  EXPECT_EQ(first["nodes"], 12);
  EXPECT_EQ(first["counts"], 8);
  // The one whose truth nobody knows has the colour of no class.
  EXPECT_EQ(first["hollow"], 1);
  EXPECT_EQ(first["legend"], "harbourhillmarketriverringed: in the losshollow: unlabelled");
  EXPECT_EQ(first["taken"], stored_along(*adjacency_of(graph), 1, 0).size());
  EXPECT_EQ(first["texts"][0], fmt::format("Ada {}", format_number(shares.at({0, 0}), 3)));
  EXPECT_EQ(first["texts"].size(), stored_along(shares, 1, 0).size());
  EXPECT_THAT(shown["seen"][1]["note"].get<std::string>(), HasSubstr("Ada"));
  EXPECT_GT(shown["seen"][1]["dots"], 12);  // the diagonal, and where there is no edge
  EXPECT_EQ(shown["seen"][2]["nodes"], 0);
  EXPECT_EQ(shown["seen"][2]["dots"], 0);
  const Lesson kiln = parse_lesson("[data]\nset = \"kiln\"\n", "t");
  EXPECT_THAT(page(prepare(kiln).work(std::vector<std::int64_t>{1})), Not(HasSubstr("\"graph\":")));
}

}  // namespace
}  // namespace lattice
