#include "lattice/graphs/around/edges.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <string>
#include <vector>

#include "lattice/files/csv.hpp"
#include "lattice/lattice.hpp"
#include "support/said.hpp"

namespace lattice {
namespace {

using ::testing::AllOf;
using ::testing::ElementsAre;
using ::testing::HasSubstr;
using ::testing::SizeIs;

const std::vector<std::string> potters = {"Ada", "Bo", "Cy \"the kiln\" Moss", "Dot, jr."};

std::vector<Edge> edges_in(const std::string& text) {
  return parse_edges(text, "edges.csv", potters, 4);
}

TEST(edges, are_read_with_commas_tabs_or_spaces_and_with_a_header_or_without) {
  const auto two = ElementsAre(Edge{0, 1}, Edge{1, 0});
  EXPECT_THAT(edges_in("Ada,Bo\nBo,Ada\n"), two);
  EXPECT_THAT(edges_in("from,to\nAda,Bo\nBo,Ada\n"), two);
  EXPECT_THAT(edges_in("source\ttarget\r\nAda\tBo\r\nBo\tAda\r\n"), two);
  EXPECT_THAT(edges_in("Ada Bo\nBo Ada"), two);
  EXPECT_THAT(edges_in("# who shares a kiln\n% another word\nAda Bo\n\nBo Ada\n"), two);
  EXPECT_THAT(edges_in(" Ada ; Bo \nBo;Ada\n"), two);
}

TEST(edges, are_between_names_with_spaces_quotes_and_commas) {
  EXPECT_THAT(edges_in("a,b\n\"Cy \"\"the kiln\"\" Moss\",\"Dot, jr.\"\nAda,Bo\n"),
              ElementsAre(Edge{2, 3}, Edge{0, 1}));
}

TEST(edges, have_a_weight_in_a_third_column) {
  EXPECT_THAT(edges_in("Ada,Bo,0.5\nBo,Ada,2\n"), ElementsAre(Edge{0, 1, 0.5}, Edge{1, 0, 2.0}));
  EXPECT_THAT(testing::said<FileError>([] { edges_in("from,to,weight\nAda,Bo,strong\n"); }),
              AllOf(HasSubstr("edges.csv, row 2 (line 2 of the file)"), HasSubstr("'strong'")));
  EXPECT_THROW(edges_in("Ada,Bo,-1\n"), FileError);
}

TEST(edges, call_nodes_by_their_rows_where_these_have_no_names) {
  EXPECT_THAT(parse_edges("0 1\n1 2\n", "e", {}, 3), ElementsAre(Edge{0, 1}, Edge{1, 2}));
  EXPECT_THAT(
      testing::said<FileError>([] { static_cast<void>(parse_edges("1 2\n2 3\n", "e", {}, 3)); }),
      AllOf(HasSubstr("an edge has an unknown node: '3'"), HasSubstr("0 to 2"),
            HasSubstr("counted from 1?")));
}

TEST(edges, to_a_node_that_is_not_there_are_refused_with_the_nearest_name) {
  EXPECT_THAT(
      testing::said<FileError>([] { edges_in("# kilns\nAda,Bo\nAdda,Bo\n"); }),
      AllOf(HasSubstr("'Adda'"), HasSubstr("line 3 of the file"), HasSubstr("did you mean Ada?")));
  EXPECT_THAT(testing::said<FileError>([] { edges_in("Ada,Bo,1,2\n"); }),
              HasSubstr("is not a list of edges"));
  EXPECT_THAT(testing::said<FileError>([] { edges_in("Ada\nBo\n"); }),
              HasSubstr("found:    1 columns"));
  EXPECT_THROW(edges_in(""), FileError);
  EXPECT_THROW(edges_in("# nothing\n"), FileError);
}

TEST(edges, are_more_than_a_header) {
  EXPECT_THAT(testing::said<FileError>(
                  [&] { static_cast<void>(parse_edges("from,to\n", "e.csv", potters, 4)); }),
              AllOf(HasSubstr("e.csv contains no edge"), HasSubstr("from, to")));
}

TEST(edges, are_read_by_the_hundred_thousand) {
  std::string text;
  for (int edge = 0; edge < 100'000; ++edge)
    text += fmt::format("{}\t{}\n", edge % 1000, (edge * 7 + 1) % 1000);
  EXPECT_THAT(parse_edges(text, "e", {}, 1000), SizeIs(100'000));
}

TEST(edges, of_a_graph_come_back_from_the_table_they_are_written_to) {
  const Dataset studios = demo_set("studios");
  const std::vector<Edge> edges =
      parse_edges(to_csv(edges_table(studios)), "e", studios.row_names, studios.rows());
  EXPECT_EQ(edges, edges_of(studios));
  const Dataset weighed = graph_of(studios, {{0, 1, 0.5}});
  EXPECT_EQ(to_csv(edges_table(weighed)), "from,to,weight\r\nAda,Alba,0.5\r\n");
}

TEST(nodes, may_have_no_class_or_no_number_that_anybody_knows) {
  const auto read = [](const std::string& text, const std::string& target) {
    return dataset_from(
               parse_table(text, "nodes.csv"),
               {.targets = {target}, .names = "who", .known = "known", .are_connected = true})
        .data;
  };
  const Dataset guilds = read(
      "who,guild,known\nAda,hill,yes\nBo,,no\nCy,river,yes\nDot,?,\nEve,hill,no\nFlo,river,no\n",
      "guild");
  EXPECT_THAT(guilds.unlabelled, ElementsAre(1, 3));
  EXPECT_THAT(guilds.class_names, ElementsAre("hill", "river"));
  EXPECT_EQ(guilds.classes.numbers(), (std::vector<double>{0, 0, 1, 0, 0, 1}));
  const Dataset years = read("who,years,known\nAda,3.5,yes\nBo,,no\nCy,7,yes\n", "years");
  EXPECT_THAT(years.unlabelled, ElementsAre(1));
  EXPECT_EQ(years.targets.numbers(), (std::vector<double>{3.5, 0, 7}));
  EXPECT_EQ(to_csv(years), "name,years,known\r\nAda,3.5,yes\r\nBo,,no\r\nCy,7,yes\r\n");
  EXPECT_THAT(to_csv(guilds), HasSubstr("\r\nDot,,no\r\n"));
  EXPECT_THAT(testing::said<FileError>([&] {
                static_cast<void>(read(
                    "who,guild,known\nAda,hill,yes\nBo,,yes\nCy,river,no\nDot,river,\nEve,hill,\n",
                    "guild"));
              }),
              AllOf(HasSubstr("a known label is missing in 'guild'"), HasSubstr("row 2")));
  EXPECT_THAT(testing::said<FileError>(
                  [&] { static_cast<void>(read("who,guild,known\nAda,,no\nBo,,no\n", "guild")); }),
              HasSubstr("every row is unlabelled"));
  EXPECT_THAT(
      testing::said<SettingError>([&] {
        static_cast<void>(read("who,guild,known\nA,hill,yes\nB,river,no\nC,,no\nD,,no\n", "guild"));
      }),
      HasSubstr("at most 1 class in 2 rows"));
}

TEST(nodes, are_read_with_their_names_and_what_is_known) {
  const Table table = parse_table(
      "who,guild,known,age\nAda,hill,yes,30\nBo,river,,41\nCy,hill,0,5\nDot,river,0,6\n",
      "nodes.csv");
  const ColumnChoice choice{.targets = {"guild"}, .names = "who", .known = "known"};
  const Dataset nodes = dataset_from(table, choice).data;
  EXPECT_THAT(nodes.row_names, ElementsAre("Ada", "Bo", "Cy", "Dot"));
  EXPECT_THAT(nodes.known, ElementsAre(0));
  EXPECT_THAT(nodes.feature_names, ElementsAre("age"));
  const Table bare = parse_table("who,guild\nAda,hill\nBo,river\nCy,hill\nDot,river\n", "n");
  EXPECT_TRUE(dataset_from(bare, {.targets = {"guild"}, .names = "who", .are_connected = true})
                  .data.has_own_features());
  EXPECT_THROW(static_cast<void>(dataset_from(bare, {.targets = {"guild"}, .names = "who"})),
               NameError);
  EXPECT_THAT(
      testing::said<FileError>([&] {
        const Table odd = parse_table(
            "who,guild,known,age\nA,hill,maybe,1\nB,river,no,2\nC,hill,no,3\nD,river,no,4\n", "n");
        static_cast<void>(dataset_from(odd, choice));
      }),
      AllOf(HasSubstr("'maybe' does not say"), HasSubstr("row 1"), HasSubstr("yes or no")));
  EXPECT_THAT(testing::said<NameError>([&] {
                static_cast<void>(dataset_from(
                    table, {.targets = {"guild"}, .names = "guild", .known = "known"}));
              }),
              HasSubstr("'guild' is the target, and is named for names at once"));
}

}  // namespace
}  // namespace lattice
