#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <fstream>
#include <string>
#include <vector>

#include "lattice/lattice.hpp"
#include "support/command.hpp"
#include "support/process.hpp"

namespace lattice {
namespace {

using ::testing::AllOf;
using testing::Answer;
using testing::Folder;
using ::testing::HasSubstr;
using testing::json_of;
using testing::lattice;
using ::testing::Not;
using testing::with;

const std::vector<std::string> two_layers = {
    "--net",    "neighbours, dense 8 without bias, tanh, neighbours, dense 4",
    "--rule",   "adam",
    "--rate",   "0.02",
    "--epochs", "60"};

class GraphCommands : public ::testing::Test {
 protected:
  void train() {
    const Answer answer = lattice(
        with(with({"train", "studios", "--save", model}, two_layers), {"--judge-every", "30"}));
    ASSERT_EQ(answer.status, 0) << answer.err;
  }

  Folder folder;
  std::string model = (folder.path() / "guilds.lattice").string();
};

TEST_F(GraphCommands, look_at_a_graph_and_write_it_out_and_read_it_again) {
  const std::string nodes = (folder.path() / "nodes.csv").string();
  const std::string edges = (folder.path() / "edges.csv").string();
  const Answer look = lattice({"data", "studios", "--csv", nodes, "--csv-edges", edges});
  EXPECT_THAT(look.out, AllOf(HasSubstr("48 nodes with 98 edges"), HasSubstr("connected"),
                              HasSubstr("8 of 48 labels are known"),
                              HasSubstr("each node is its own feature"), HasSubstr("takes from")));
  EXPECT_EQ(look.err, "");
  const std::vector<std::string> own = {"--file",   nodes,   "--edges", edges,
                                        "--target", "guild", "--known", "known"};
  const testing::Json read = json_of(lattice(with({"data", "--json"}, own)));
  EXPECT_EQ(read["graph"], json_of(lattice({"data", "studios", "--json"}))["graph"]);
  const testing::Json as_set =
      json_of(lattice(with(with({"train", "studios"}, two_layers), {"--json"})));
  const testing::Json as_file =
      json_of(lattice(with(with(with({"train"}, own), two_layers), {"--json"})));
  EXPECT_EQ(as_file["parts"], as_set["parts"]);
  EXPECT_EQ(as_file["weights"], as_set["weights"]);
}

TEST_F(GraphCommands, learn_beside_nodes_whose_class_nobody_knows_and_ask_them) {
  const std::string text = "name,guild\nAda,hill\nBo,\nCy,river\nDot,river\nEve,hill\nFlo,\n";
  const std::vector<std::string> graph = {
      "--file",   folder.file("n.csv", text),
      "--edges",  folder.file("e.csv", "Ada,Eve\nBo,Eve\nCy,Dot\nDot,Flo\n"),
      "--target", "guild"};
  const Answer look = lattice(with({"data"}, graph));
  EXPECT_THAT(look.out, AllOf(HasSubstr("all labels are known; 2 nodes unlabelled"),
                              HasSubstr("50.0 %"), Not(HasSubstr("33.3 %"))));
  const std::vector<std::string> how = {"--known",  "1",   "--net",  "neighbours, dense 2",
                                        "--epochs", "200", "--rule", "adam",
                                        "--rate",   "0.1", "--save", model,
                                        "--json"};
  EXPECT_THAT(lattice(with(with({"work"}, graph), {"--known", "1"})).out,
              HasSubstr("nodes: 2 train, 2 test, 2 without guild"));
  const Answer run = lattice(with(with({"train"}, graph), how));
  EXPECT_THAT(run.err, HasSubstr("2 nodes without guild"));
  EXPECT_EQ(json_of(run)["parts"]["test"]["rows"], 2);
  const testing::Json asked =
      json_of(lattice({"ask", model, "--node", "Bo", "--node", "Flo", "--json"}));
  EXPECT_EQ(asked["answers"][0]["guild"], "hill");
  EXPECT_EQ(asked["answers"][1]["guild"], "river");
  const std::string back = (folder.path() / "back.csv").string();
  ASSERT_EQ(lattice(with(with({"data"}, graph), {"--csv", back})).status, 0);
  EXPECT_THAT(testing::content_of(back), HasSubstr("Bo,\r\n"));
}

TEST_F(GraphCommands, ask_a_model_about_its_nodes_by_name) {
  train();
  const testing::Json answers =
      json_of(lattice({"ask", model, "--node", "Ada", "--node", "6", "--json"}));
  ASSERT_EQ(answers["answers"].size(), 2U);
  EXPECT_EQ(answers["answers"][0]["guild"], "hill");
  EXPECT_THAT(lattice({"ask", model, "--node", "Ada"}).out, HasSubstr("node Ada  guild: hill"));
  EXPECT_THAT(lattice({"ask", model, "--node", "Adda"}).err, HasSubstr("did you mean Ada?"));
  EXPECT_THAT(lattice({"ask", model}).err, HasSubstr("--node Ada"));
  EXPECT_THAT(lattice({"ask", model, "--record", "1"}).err,
              HasSubstr("a model of a graph answers only for its nodes"));
  const std::string kiln = (folder.path() / "kiln.lattice").string();
  ASSERT_EQ(lattice({"train", "kiln", "--save", kiln}).status, 0);
  EXPECT_THAT(lattice({"ask", kiln, "--node", "Ada"}).err,
              HasSubstr("this model is not asked about nodes"));
}

TEST_F(GraphCommands, explain_an_answer_down_to_the_nodes_it_takes_from) {
  train();
  EXPECT_THAT(
      lattice({"why", "shares[Ada,Bo]", "studios", "--net", "neighbours, dense 4"}).out,
      AllOf(HasSubstr("node 0 Ada, node 6 Bo"),
            HasSubstr("shares[0,6] = scale[0]·looped[0,6]·scale[6]"), HasSubstr("= 0.18898")));
  EXPECT_THAT(lattice({"why", "neighbours2[Carla,0]", "studios", "--net",
                       "neighbours, dense 3, tanh, neighbours, dense 4"})
                  .out,
              HasSubstr("node 7 Carla, unit 0; with 24 Jonas, 37 Oskar, 39 Quirin\n"));
  const Answer deep = lattice({"why", "p[Carla,hill]", model, "--node", "Carla", "--depth", "2"});
  EXPECT_THAT(deep.out, HasSubstr("neighbours2[7,0] = shares[7,7]·tanh[7,0] + shares[7,24]"));
  const Answer work = lattice({"work", model, "--node", "Carla"});
  EXPECT_THAT(work.out,
              AllOf(HasSubstr("of.asked = gather_rows(winning, asked)"), HasSubstr("│ ∂x  ")));
  EXPECT_THAT(lattice({"work", model, "--node", "Carla", "--node", "Ada"}).out, HasSubstr("total"));
}

TEST_F(GraphCommands, look_at_the_edges_where_nothing_else_is_said_and_tell_where_nothing_does) {
  EXPECT_THAT(lattice({"plan", "studios"}).out, HasSubstr("neighbours"));
  const Answer told = lattice({"train", "studios", "--epochs", "1"});
  EXPECT_THAT(told.err + told.out, Not(HasSubstr("edges-unused")));
  for (const std::vector<std::string>& command :
       {std::vector<std::string>{"train", "studios", "--epochs", "1"}, {"work", "studios"}}) {
    EXPECT_THAT(lattice(with(command, {"--net", "dense 4"})).err,
                AllOf(HasSubstr("edges-unused"), HasSubstr("--net 'neighbours, dense 4'")));
  }
}

TEST_F(GraphCommands, judge_resume_and_check_as_elsewhere) {
  train();
  const testing::Json judged = json_of(lattice({"assess", model, "--json"}));
  EXPECT_EQ(judged["parts"]["test"]["rows"], 40);
  const Answer further = lattice({"train", "--resume", model, "--epochs", "10", "--save", model});
  EXPECT_EQ(further.status, 0) << further.err;
  EXPECT_EQ(lattice(with({"check", "studios"}, two_layers)).status, 0);
  std::ifstream file(model);
  const testing::Json saved = testing::Json::parse(file);
  EXPECT_EQ(saved["graph"]["names"][0], "Ada");
  EXPECT_EQ(saved["graph"]["edges"].size(), 98U);
  EXPECT_TRUE(saved["graph"]["features"].is_null());
  const Answer schema = testing::run_program(
      "/usr/bin/python3", {LATTICE_SOURCE "/tests/support/check_schema.py",
                           LATTICE_SOURCE "/docs/schemas/model.schema.json", model});
  EXPECT_EQ(schema.status, 0) << schema.out << schema.err;
}

TEST_F(GraphCommands, teach_where_a_graph_is_not_whole) {
  const auto trouble = [&](const std::string& edges, const std::vector<std::string>& more) {
    const std::string nodes =
        folder.file("n.csv", "name,guild\nAda,hill\nBo,hill\nCy,river\nDot,river\n");
    return lattice(with({"train", "--file", nodes, "--edges", folder.file("e.csv", edges),
                         "--target", "guild", "--net", "neighbours, dense 2", "--known", "1"},
                        more))
        .err;
  };
  EXPECT_THAT(trouble("Ada,Bo\nBo,Zed\n", {}), HasSubstr("an edge has an unknown node: 'Zed'"));
  EXPECT_THAT(trouble("Ada,Bo\nBo,Bo\nBo,Ada\nCy,Dot\n", {}),
              AllOf(HasSubstr("1 edge of a node to itself left out"),
                    HasSubstr("1 edge listed again, and counted once")));
  EXPECT_THAT(trouble("Ada,Bo\n", {}), HasSubstr("nodes-alone"));
  const std::string twice =
      folder.file("twice.csv", "name,guild\nAda,hill\nAda,river\nBo,hill\nCy,river\n");
  EXPECT_THAT(lattice({"data", "--file", twice, "--target", "guild", "--edges",
                       folder.file("e.csv", "Ada,Zed\n")})
                  .err,
              HasSubstr("two nodes are called 'Ada'"));
  EXPECT_THAT(trouble("Ada,Bo\nCy,Dot\n", {"--train", "0.5"}),
              HasSubstr("training uses the known labels"));
  EXPECT_THAT(lattice({"train", "studios", "--batch", "20"}).err,
              AllOf(HasSubstr("a minibatch of 20 nodes is too large: 8 are known"),
                    HasSubstr("--batch all")));
  EXPECT_THAT(lattice({"train", "--edges", (folder.path() / "e.csv").string()}).err,
              HasSubstr("--edges needs a file of nodes"));
  EXPECT_THAT(lattice({"train", "glazes", "--net", "neighbours, dense 4"}).err,
              AllOf(HasSubstr("neighbours needs the side input 'A'"), Not(HasSubstr("terminate"))));
}

}  // namespace
}  // namespace lattice
