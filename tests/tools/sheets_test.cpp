#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <algorithm>
#include <filesystem>
#include <string>
#include <vector>

#include "lattice/text/letters.hpp"
#include "support/books.hpp"
#include "support/command.hpp"
#include "support/worked.hpp"

/// Worksheets as text, worked by the command.
namespace lattice::testing {
namespace {

using ::testing::AllOf;
using ::testing::HasSubstr;
using ::testing::Not;

const std::string sheets = LATTICE_SOURCE "/demo/sheets/";

std::vector<std::string> demo_sheets() {
  std::vector<std::string> all;
  for (const auto& entry : std::filesystem::directory_iterator(sheets))
    all.push_back(entry.path());
  EXPECT_GE(all.size(), 5U);
  return all;
}

TEST(sheets, of_the_demo_folder_come_in_every_form) {
  const Folder folder;
  for (const std::string& sheet : demo_sheets()) {
    const std::string name = folder.path() / std::filesystem::path(sheet).stem();
    const Answer answer =
        lattice({"work",         sheet,          "--rule",        "momentum",    "--rate",
                 "0.001",        "--steps",      "1,3",           "--html",      name + ".html",
                 "--xlsx",       name + ".xlsx", "--graph",       name + ".svg", "--json",
                 name + ".json", "--sheet",      name + ".sheet", "--blanks",    "4"});
    EXPECT_EQ(answer.status, 0) << sheet << answer.err;
    const Answer valid =
        run_program("/usr/bin/python3",
                    {LATTICE_SOURCE "/tests/support/check_schema.py",
                     LATTICE_SOURCE "/docs/schemas/worked_example.schema.json", name + ".json"});
    EXPECT_EQ(valid.status, 0) << sheet << valid.out << valid.err;
    const Json worked = Json::parse(content_of(name + ".json"));
    EXPECT_EQ(worked["steps"][0]["step"], 1);
    EXPECT_EQ(worked["steps"][1]["step"], 3);
    EXPECT_LT(worked["steps"][1]["loss_after"], worked["steps"][0]["loss_before"]);
    for (const char* form : {".html", ".xlsx", ".svg"})
      EXPECT_GT(std::filesystem::file_size(name + form), 1000U) << sheet;
    EXPECT_EQ(lattice({"check", sheet}).status, 0) << sheet;
    // What is written is the same calculation.
    const Json again = json_of(lattice({"work", name + ".sheet", "--rule", "momentum", "--rate",
                                        "0.001", "--steps", "1,3", "--json"}));
    EXPECT_EQ(again["steps"], worked["steps"]) << sheet;
  }
}

TEST(sheets, are_worked_line_by_line_with_their_names_and_sections) {
  const Answer answer = lattice({"work", sheets + "kiln_line.sheet", "--rule", "descent", "--rate",
                                 "0.02", "--steps", "1,2"});
  EXPECT_EQ(answer.status, 0) << answer.err;
  EXPECT_THAT(answer.out,
              AllOf(HasSubstr("A line through four readings of the kiln · kiln_line.sheet\n"),
                    HasSubstr("\ndescent · rate 0.02\n"), HasSubstr("── Step 1 ──"),
                    HasSubstr("── Line ──"), HasSubstr("z = x·W + b"), HasSubstr("0 minutes"),
                    HasSubstr("The same lines again"), HasSubstr("cost before the update  344.38"),
                    Not(HasSubstr("epoch"))));
  EXPECT_EQ(answer.err, "");
}

TEST(sheets, explain_check_and_draw_their_numbers) {
  const Folder folder;
  const std::string line = sheets + "kiln_line.sheet";
  EXPECT_THAT(lattice({"why", "z[1,0]", line}).out, HasSubstr("= 8.5·80 + 20\n       = 700"));
  EXPECT_THAT(lattice({"why", "W", line, "--gradient"}).out, HasSubstr("= −149.9"));
  EXPECT_THAT(lattice({"why", "∂W", line}).out, HasSubstr("= −149.9"));
  EXPECT_THAT(lattice({"why", "new W", line, "--rule", "descent", "--rate", "0.02"}).out,
              HasSubstr("= 82.998"));
  EXPECT_THAT(lattice({"why", "x[1,0]", line}).out, HasSubstr("x[1,0] = 8.5"));
  const Answer check = lattice({"check", line, "--json"});
  EXPECT_EQ(json_of(check)["settings"]["title"], "A line through four readings of the kiln");
  const std::string drawn = folder.path() / "line.svg";
  EXPECT_EQ(lattice({"draw", "graph", line, "--out", drawn}).status, 0);
  EXPECT_THAT(content_of(drawn), HasSubstr("residual = z − y"));
  const std::string of_lesson = folder.path() / "glazes.dot";
  EXPECT_EQ(lattice({"draw", "graph", "glazes", "--batch", "3", "--gradients", "--out", of_lesson})
                .status,
            0);
  EXPECT_THAT(content_of(of_lesson), HasSubstr("xᵀ·∂output"));
}

TEST(sheets, can_be_typed_into_the_command) {
  const Answer answer = lattice({"work", "--line", "z = (x + 2)·5", "--given", "x = zeros(4, 4)"});
  EXPECT_EQ(answer.status, 0) << answer.err;
  EXPECT_THAT(answer.out, AllOf(HasSubstr("· z = (x + 2)·5"), HasSubstr("z = sum × 5"),
                                HasSubstr("3  10  10  10  10"), Not(HasSubstr("Reverse"))));
  const Json worked =
      json_of(lattice({"work", "--weight", "w = 3", "--line", "c = (w - 1)^2", "--rule", "descent",
                       "--rate", "0.1", "--steps", "1,2,3", "--json"}));
  EXPECT_EQ(worked["steps"].size(), 3U);
  EXPECT_NEAR(worked["steps"][2]["loss_before"].get<double>(), 4.0 * 0.64 * 0.64, 1e-12);
  EXPECT_THAT(lattice({"why", "c", "--weight", "w = 3", "--line", "c = (w - 1)^2"}).out,
              HasSubstr("= 4"));
}

TEST(sheets, take_the_flags_that_have_a_meaning_for_them) {
  const Folder folder;
  const std::string random = folder.file("random.sheet",
                                         "seed 3\nprecision single\nweight w = normal(2, 2; 0, 1)\n"
                                         "cost = sum(w²)\n");
  const auto weight_with = [&](const Words& flags) {
    const Json worked = json_of(lattice(with({"work", random, "--json"}, flags)));
    return named(worked["steps"][0]["lines"], "w")["values"];
  };
  EXPECT_EQ(weight_with({}), weight_with({"--seed", "3"}));
  EXPECT_NE(weight_with({}), weight_with({"--seed", "4"}));
  EXPECT_EQ(json_of(lattice({"work", random, "--json", "--title", "Mine"}))["title"], "Mine");
  const Json clipped = json_of(lattice({"work", random, "--json", "--rule", "descent", "--rate",
                                        "0.1", "--clip-norm", "0.5"}))["steps"][0];
  EXPECT_LT(clipped["clip_factor"], 1.0);
  // The command that is written above a sheet works it as it was worked.
  const std::string path = folder.path() / "kiln.sheet";
  EXPECT_EQ(
      lattice({"work", "kiln", "--rule", "momentum", "--rate", "0.05", "--sheet", path}).status, 0);
  const std::string text = content_of(path);
  const std::string command = text.substr(0, text.find('\n'));
  EXPECT_EQ(command, "# lattice work " + path + " --rule momentum --rate 0.05");
}

TEST(sheets, take_a_minibatch_apart_and_give_it_back_to_the_last_bit) {
  const Folder folder;
  const std::string path = folder.path() / "glazes.sheet";
  const Words lesson = {"work",   "glazes", "--batch", "4", "--net", "dense 3, tanh, dense 4",
                        "--rule", "adam"};
  EXPECT_EQ(lattice(with(lesson, {"--sheet", path})).status, 0);
  const Json worked = json_of(lattice(with(lesson, {"--json"})))["steps"][0];
  const Json again = json_of(lattice({"work", path, "--rule", "adam", "--json"}))["steps"][0];
  for (const char* part : {"lines", "reverse", "gradients", "updates", "loss_before", "loss_after"})
    EXPECT_EQ(again[part], worked[part]) << part;

  // One line changed: another activation.
  std::string text = content_of(path);
  const std::size_t at = text.find("tanh(hidden)");
  ASSERT_NE(at, std::string::npos);
  const std::string changed = folder.file("changed.sheet", text.replace(at, 12, "relu(hidden)"));
  const Json other = json_of(lattice({"work", changed, "--json"}))["steps"][0];
  EXPECT_EQ(named(other["lines"], "tanh")["symbols"], "max(hidden, 0)");
  EXPECT_NE(named(other["lines"], "loss")["values"], named(worked["lines"], "loss")["values"]);
}

TEST(sheets, take_rows_of_a_demo_set_or_of_a_table_beside_them) {
  const Folder folder;
  const std::string net =
      "weight W = [[0.1], [0.2]]\nweight b = [0]\nz = x·W + b\ncost = mean((z − y)²)\n";
  static_cast<void>(folder.file("pots.csv", "minutes,wall,degrees\n4,2,428\n8,3,733\n2,1,229\n"));
  const std::string of_table = folder.file("table.sheet", "data pots.csv, rows 1 to 2\n" + net);
  const Answer answer = lattice({"work", of_table});
  EXPECT_EQ(answer.status, 0) << answer.err;
  EXPECT_THAT(answer.out, AllOf(HasSubstr("0 minutes"), HasSubstr("733"), Not(HasSubstr("428"))));
  EXPECT_THAT(lattice({"why", "x[0,1]", of_table}).out, HasSubstr("row 1, column wall"));

  const std::string of_set =
      folder.file("set.sheet",
                  "data glazes, rows 0 to 3\nweight W = xavier(5, 4)\nz [example × class] = x·W\n"
                  "loss = cross_entropy(z, y)\n");
  EXPECT_THAT(lattice({"work", of_set}).out, HasSubstr("1 celadon"));
  const std::string none = folder.file("none.sheet", "data glases, rows 0 to 3\nz = x × 2\n");
  EXPECT_THAT(lattice({"work", none}).err,
              AllOf(HasSubstr("did you mean glazes?"), HasSubstr("line 1 of none.sheet")));
  const std::string beyond = folder.file("beyond.sheet", "data kiln, rows 5 to 5000\nz = x × 2\n");
  EXPECT_THAT(lattice({"work", beyond}).err, HasSubstr("no such rows"));
}

TEST(sheets, are_refused_with_the_place_of_the_fault) {
  const Folder folder;
  const std::string faulty =
      folder.file("faulty.sheet", "given x = [[1, 2]]\nweight W = [[1], [2], [3]]\nz = x·W\n");
  const Answer answer = lattice({"work", faulty});
  EXPECT_EQ(answer.status, 2);
  EXPECT_THAT(answer.err, AllOf(HasSubstr("x [1 × 2]"), HasSubstr("W [3 × unit 1]"),
                                HasSubstr("line 3 of faulty.sheet"),
                                HasSubstr("            z = x·W\n                 ^\n")));
  EXPECT_EQ(answer.out, "");
  EXPECT_THAT(lattice({"train", faulty}).err, HasSubstr("faulty.sheet is a sheet"));
  EXPECT_THAT(lattice({"work", faulty, "--net", "dense 2"}).err,
              HasSubstr("--net is for a lesson, but"));
  EXPECT_THAT(lattice({"work", "glazes", "--line", "z = 1"}).err, HasSubstr("exclude each other"));
  EXPECT_THAT(lattice({"work", sheets + "kiln_line.sheet", "--steps", "2"}).err,
              HasSubstr("--rule descent"));
  EXPECT_THAT(lattice({"work", sheets + "kiln_line.sheet", "--curves", "--html", "a.html"}).err,
              HasSubstr("a sheet has no curves"));
  EXPECT_THAT(lattice({"work", "kiln", "--sheet", "a.txt"}).err, HasSubstr("ends in .sheet"));
  EXPECT_THAT(lattice({"work", "missing.sheet"}).err, HasSubstr("missing.sheet"));
  EXPECT_THAT(lattice({"work", folder.path()}).err, HasSubstr("expected"));
  const std::string pipe = folder.path() / "pipe.sheet";
  ASSERT_EQ(shell("mkfifo '" + pipe + "'").status, 0);
  EXPECT_EQ(lattice({"work", pipe}).status, 2);
}

TEST(sheets, of_a_stranger_show_what_they_say_and_do_nothing) {
  const Folder folder;
  const std::string path =
      folder.file("odd.sheet",
                  "title $(touch pwned) `touch pwned` <script>alert(1)</script> =1+1 ]]>\n"
                  "features \"=1+1\", \"<b>\"\"x\"\"</b>\"\n"
                  "section \"</script><b>\"\n"
                  "given \"</td><td>\" [example × feature] = [[1, 2]]\n"
                  "weight \"=HYPERLINK(1)\" = [[1], [2]]\n"
                  "cost = sum(\"</td><td>\"·\"=HYPERLINK(1)\")\n");
  const std::string html = folder.path() / "odd.html";
  const std::string xlsx = folder.path() / "odd.xlsx";
  const std::string svg = folder.path() / "odd.svg";
  const Answer answer = lattice({"work", path, "--html", html, "--xlsx", xlsx, "--graph", svg});
  EXPECT_EQ(answer.status, 0) << answer.err;
  EXPECT_FALSE(std::filesystem::exists(folder.path() / "pwned"));
  EXPECT_THAT(content_of(html), Not(HasSubstr("<script>alert")));
  EXPECT_THAT(content_of(html), Not(HasSubstr("</td><td>")));
  EXPECT_THAT(content_of(svg), Not(HasSubstr("<b>")));
  const Answer shown = lattice({"work", path});
  EXPECT_EQ(shown.status, 0);
  EXPECT_THAT(shown.out, HasSubstr("$(touch pwned)"));
  const std::string steering =
      folder.file("steering.sheet", "title a\x1b[2J\nweight w = 1\nz = w²\n");
  EXPECT_THAT(lattice({"work", steering}).out, Not(HasSubstr("\x1b[2J")));
  EXPECT_THAT(lattice({"work", folder.file("name.sheet", "weight \"a\x1b[2J\" = 1\n")}).err,
              AllOf(HasSubstr("cannot have this name"), Not(HasSubstr("\x1b"))));
}

TEST(sheets, take_the_columns_that_they_name) {
  const Folder folder;
  static_cast<void>(
      folder.file("pots.csv", "minutes,\"wall, mm\",degrees\n4,2,428\n8,3,733\n2,1,229\n"));
  const std::string sheet = folder.file("columns.sheet",
                                        "data pots.csv, target \"wall, mm\", feature degrees\n"
                                        "weight w = [[0.1]]\nz = x·w\ncost = mean((z − y)²)\n");
  const Answer answer = lattice({"work", sheet});
  EXPECT_EQ(answer.status, 0) << answer.err;
  EXPECT_THAT(answer.out, AllOf(HasSubstr("0 degrees"), HasSubstr("example 0        428"),
                                Not(HasSubstr("minutes"))));
  const std::string none = folder.file("none.sheet", "data pots.csv, target walls\nz = x × 2\n");
  EXPECT_THAT(lattice({"work", none}).err, HasSubstr("walls"));
}

TEST(sheets, take_numbers_beside_lines) {
  const Answer answer = lattice({"work", "--given", "x = [[1, 2]]", "--line",
                                 "z = x·[[3], [4]] + [0.5]", "--line", "c = max(z, [[20]])"});
  EXPECT_EQ(answer.status, 0) << answer.err;
  EXPECT_THAT(answer.out, AllOf(HasSubstr("z = product + #4"), HasSubstr("11.5"), HasSubstr("20")));
}

TEST(printing, is_as_wide_as_asked_for) {
  const auto longest = [](const Words& words) {
    const Answer answer = lattice(words);
    EXPECT_EQ(answer.status, 0) << answer.err;
    std::size_t most = 0;
    for (std::size_t from = 0; from < answer.out.size();) {
      const std::size_t end = answer.out.find('\n', from);
      most = std::max(most, columns(answer.out.substr(from, end - from)));
      from = end + 1;
    }
    return most;
  };
  for (const Words& words : {Words{"work", "glazes", "--batch", "4"},
                             Words{"why", "∂output.weight[0,0]", "glazes", "--depth", "2"},
                             Words{"train", "glazes", "--epochs", "3"}, Words{"data", "glazes"},
                             Words{"plan", "glazes"}, Words{"check", "glazes", "--batch", "4"}}) {
    EXPECT_LE(longest(with(words, {"--width", "80"})), 80U) << ::testing::PrintToString(words);
  }
  EXPECT_EQ(longest({"work", "glazes", "--batch", "4", "--width", "140"}), 140U);
  EXPECT_EQ(longest({"work", "glazes", "--batch", "4"}), 100U);
  EXPECT_THAT(lattice({"work", "glazes", "--width", "79"}).err, HasSubstr("80 to 200"));
  EXPECT_THAT(lattice({"work", "glazes", "--width", "wide"}).err, HasSubstr("--width"));
}

TEST(why, tells_a_loss_as_it_is_worked_and_every_term_on_request) {
  const Words loss = {"why", "loss", "cracks", "--batch", "4", "--net", "dense 1"};
  EXPECT_THAT(lattice(loss).out,
              AllOf(HasSubstr("log(1 − p["), HasSubstr("(worked as max(score, 0)")));
  EXPECT_THAT(lattice(with(loss, {"--as-worked"})).out,
              AllOf(HasSubstr("max(output[0,0], 0)"), Not(HasSubstr("worked as"))));
  const Words sum = {"why", "∂output.bias[0]", "glazes", "--batch", "9"};
  EXPECT_THAT(lattice(sum).out, HasSubstr("[4 more]"));
  EXPECT_THAT(lattice(with(sum, {"--all-terms"})).out,
              AllOf(Not(HasSubstr("more]")), HasSubstr("∂output[8,0]")));
}

TEST(sheets, take_layers_apart_too) {
  const Folder folder;
  const std::string path = folder.path() / "layers.sheet";
  const Words minibatch = {"work",         "glazes",
                           "--batch",      "4",
                           "--net",        "dense 3, normalise, tanh, dense 4, softmax",
                           "--layer-form", "written out"};
  const Json whole = json_of(lattice(with(minibatch, {"--json"})))["steps"][0];
  ASSERT_EQ(lattice(with(minibatch, {"--sheet", path})).status, 0);
  const std::string text = content_of(path);
  EXPECT_THAT(text, AllOf(HasSubstr("product = x·hidden.weight"), HasSubstr("deviation ="),
                          Not(HasSubstr("dense(")), Not(HasSubstr("normalised("))));
  const Json again =
      json_of(lattice({"work", path, "--rule", "descent", "--rate", "0.01", "--json"}));
  EXPECT_EQ(again["steps"][0]["loss_before"], whole["loss_before"]);
  EXPECT_EQ(again["steps"][0]["gradients"], whole["gradients"]);
  const Words fused(minibatch.begin(), minibatch.end() - 2);
  const Json in_one = json_of(lattice(with(fused, {"--json"})))["steps"][0];
  EXPECT_NEAR(in_one["loss_before"].get<double>(), whole["loss_before"].get<double>(), 1e-12);
  EXPECT_LT(in_one["lines"].size() + 6, whole["lines"].size());
}

}  // namespace
}  // namespace lattice::testing
