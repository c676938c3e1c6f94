#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <fstream>
#include <map>

#include "support/command.hpp"

namespace lattice::testing {
namespace {

using ::testing::HasSubstr;
using ::testing::IsEmpty;
using ::testing::Not;

Json work(Words more) {
  more.insert(more.begin(), "work");
  more.emplace_back("--json");
  const Json json = json_of(lattice(more));
  Json worked = json["steps"][0];
  worked["settings"] = json["settings"];
  return worked;
}

Json line_of(const Json& worked, const std::string& name) {
  for (const Json& line : worked["lines"]) {
    if (line["name"] == name) return line;
  }
  ADD_FAILURE() << "no line " << name;
  return {};
}

const std::string figures = LATTICE_SOURCE "/tests/figures/";

const Words by_hand = {"--file",       figures + "linear_minibatch.csv",
                       "--target",     "shade",
                       "--scale",      "none",
                       "--validation", "0",
                       "--test",       "0",
                       "--batch",      "5",
                       "--rate",       "0.05",
                       "--start",      "output.weight=0.5,-0.2,0.1",
                       "--start",      "output.bias=0.25"};

// linear_minibatch.txt was worked by bc to 30 places, apart from anything of ours.
TEST(work, gives_the_figures_of_an_independent_calculation) {
  std::ifstream file(figures + "linear_minibatch.txt");
  std::vector<double> expected;
  for (double figure = 0; file >> figure;)
    expected.push_back(figure);
  ASSERT_EQ(expected.size(), 15U);
  const Json worked = work(by_hand);

  EXPECT_NEAR(worked["loss_before"], expected[0], 1e-12);
  const Json z = line_of(worked, "output")["values"];
  for (std::size_t example = 0; example < 5; ++example) {
    const std::size_t row = worked["rows"][example];
    EXPECT_NEAR(z[example][0], expected[1 + row], 1e-12);
  }
  for (std::size_t k = 0; k < 3; ++k) {
    EXPECT_NEAR(worked["gradients"]["output.weight"][k][0], expected[6 + k], 1e-12);
    EXPECT_NEAR(worked["updates"]["output.weight"]["after"][k][0], expected[10 + k], 1e-12);
  }
  EXPECT_NEAR(worked["gradients"]["output.bias"][0], expected[9], 1e-12);
  EXPECT_NEAR(worked["updates"]["output.bias"]["after"][0], expected[13], 1e-12);
  EXPECT_NEAR(worked["loss_after"], expected[14], 1e-12);
}

TEST(work, describes_every_line) {
  const Json worked = work(by_hand);
  const Json z = line_of(worked, "output");
  EXPECT_EQ(z["number"], 5);
  EXPECT_EQ(z["operation"], "dense");
  EXPECT_EQ(z["symbols"], "x·output.weight + output.bias");
  EXPECT_EQ(z["shape"], Json({5, 1}));
  EXPECT_EQ(z["roles"], Json({"example", "target"}));
  EXPECT_EQ(line_of(worked, "x")["roles"], Json({"example", "feature"}));
  EXPECT_EQ(worked["updates"]["output.weight"]["before"], Json({{0.5}, {-0.2}, {0.1}}));
  EXPECT_EQ(worked["updates"]["output.weight"]["gradient"], worked["gradients"]["output.weight"]);
  EXPECT_EQ(worked["settings"]["network"]["start"][0], "output.weight=0.5,-0.2,0.1");
  EXPECT_EQ(worked["settings"]["data"]["target"], "shade");
  EXPECT_EQ(worked["reverse"].front()["name"], "loss");
  EXPECT_EQ(worked["reverse"].back()["name"], "output.weight");
}

TEST(work, draws_the_same_rows_for_the_same_seed_and_others_for_another) {
  const Words seven = {"work", "shrinkage", "--seed", "7"};
  EXPECT_EQ(lattice(seven).out, lattice(seven).out);
  EXPECT_NE(work({"--seed", "7"})["rows"], work({"--seed", "8"})["rows"]);
  EXPECT_EQ(work({"--seed", "7"})["rows"],
            work({"--seed", "7", "--start", "output.weight=1"})["rows"]);
}

TEST(work, prints_every_part_of_the_step_in_a_hundred_columns) {
  for (const Words& words :
       {Words{"work"}, Words{"work", "shrinkage", "--batch", "64"},
        Words{"work", "shrinkage", "--digits", "17"},
        Words{"work", "glazes", "--net", "dense 8, tanh, dense 4", "--rule", "adam"}}) {
    const Answer answer = lattice(words);
    EXPECT_EQ(answer.status, 0);
    EXPECT_THAT(answer.err, IsEmpty());
    for (const char* part : {"Rows taken", "Scaling", "Output", "Loss", "Reverse sweep", "Update",
                             "The same minibatch again", "·output.weight", "passed on to "}) {
      EXPECT_THAT(answer.out, HasSubstr(part));
    }
    EXPECT_THAT(answer.out, Not(HasSubstr("\x1b")));
    std::istringstream rows(answer.out);
    for (std::string row; std::getline(rows, row);) {
      const auto width = std::ranges::count_if(row, [](char c) { return (c & 0xC0) != 0x80; });
      EXPECT_LE(width, 100) << row;
    }
  }
}

TEST(work, says_how_much_of_a_long_table_it_shows) {
  EXPECT_THAT(lattice({"work", "cracks", "--batch", "36"}).out, HasSubstr("of 36 columns shown)"));
  EXPECT_THAT(lattice({"work", "--batch", "36"}).out, HasSubstr("(9 of 36 examples shown)"));
}

TEST(work, notices_a_step_that_was_too_long) {
  EXPECT_THAT(lattice({"work", "shrinkage", "--scale", "none"}).out,
              HasSubstr("It rose: a step in this direction was too long"));
  EXPECT_THAT(lattice({"work", "kiln"}).out, Not(HasSubstr("It ")));
  // Steps too short for any digit, weights that move where no output does, and numbers beyond all.
  EXPECT_THAT(lattice({"work", "kiln", "--rate", "1e-300", "--start", "output.bias=1"}).out,
              HasSubstr("It stayed the same, as every weight did"));
  EXPECT_THAT(lattice({"work", "kiln", "--net", "first: dense 1, relu, dense 1", "--start",
                       "first.bias=-1000", "--start", "output.bias=0", "--freeze", "output",
                       "--weight-decay", "0.5"})
                  .out,
              HasSubstr("It stayed the same: the change of the weights does not affect loss"));
  EXPECT_THAT(lattice({"work", "kiln", "--rate", "1e300"}).out,
              HasSubstr("It is no finite number any more: "));
  EXPECT_THAT(lattice({"work", "kiln", "--start", "output.weight=1e300"}).out,
              HasSubstr("It is no finite number: "));
}

TEST(work, scales_features_on_the_sheet_itself) {
  const Json worked = work({"shrinkage"});
  EXPECT_EQ(line_of(worked, "x")["operation"], "divide");
  EXPECT_EQ(line_of(worked, "raw")["section"], "scaling");
  EXPECT_THAT(lattice({"why", "x[0,2]", "shrinkage"}).out,
              HasSubstr("(raw[0,2] − centre[2])/divisor[2]"));
}

TEST(work, calculates_in_single_precision_when_asked) {
  const Json wide = work({"--rate", "0.02"});
  const Json narrow = work({"--rate", "0.02", "--precision", "single"});
  EXPECT_NE(wide["loss_before"], narrow["loss_before"]);
  EXPECT_NEAR(wide["loss_before"].get<double>() / narrow["loss_before"].get<double>(), 1.0, 1e-6);
}

TEST(command, alone_shows_what_there_is) {
  const Answer answer = lattice({});
  EXPECT_EQ(answer.status, 0);
  for (const char* verb : {"demo", "work", "why", "compare", "about"})
    EXPECT_THAT(answer.out, HasSubstr(std::string("\n  ") + verb + " "));
}

TEST(command, takes_a_yes_or_a_no_behind_a_flag_as_it_takes_a_number) {
  const std::string in_order = lattice({"work", "kiln", "--shuffled=false"}).out;
  EXPECT_EQ(lattice({"work", "kiln", "--shuffled", "false"}).out, in_order);
  EXPECT_NE(lattice({"work", "kiln"}).out, in_order);
  EXPECT_EQ(lattice({"work", "kiln", "--shuffled", "true"}).out, lattice({"work", "kiln"}).out);
}

TEST(why, fills_the_numbers_in) {
  Words words = by_hand;
  words.insert(words.begin(), {"why", "output.weight[1,0]", "--update"});
  EXPECT_EQ(lattice(words).out,
            "feature 1 hours, target 0 shade\n"
            "new output.weight[1,0] = output.weight[1,0] − rate·∂output.weight[1,0]\n"
            "                       = (−0.2) − 0.05·0.16981\n"
            "                       = −0.20849\n");
  words[1] = "loss";
  words[2] = "--gradient";
  EXPECT_THAT(lattice(words).out, HasSubstr("the sweep starts here"));
}

TEST(why, agrees_with_work_on_every_number) {
  const Json worked = work({"--batch", "3"});
  for (const Json& line : worked["lines"]) {
    if (line["shape"].size() != 2) continue;
    const std::string place = line["name"].get<std::string>() + "[0,0]";
    const Json why = json_of(lattice({"why", place, "--batch", "3", "--json"}));
    EXPECT_EQ(why["value"], line["values"][0][0]) << place;
    if (why.contains("evaluates_to")) {
      EXPECT_NEAR(why["evaluates_to"], why["value"], 1e-9);
    }
  }
  const Json gradient =
      json_of(lattice({"why", "output.weight[0,0]", "--gradient", "--batch", "3", "--json"}));
  EXPECT_EQ(gradient["value"], worked["gradients"]["output.weight"][0][0]);
  const Json update =
      json_of(lattice({"why", "output.weight[0,0]", "--update", "--batch", "3", "--json"}));
  EXPECT_EQ(update["value"], worked["updates"]["output.weight"]["after"][0][0]);
}

TEST(why, says_from_which_row_and_column_data_came) {
  const Json worked = work({"shrinkage"});
  const std::string row = std::to_string(worked["rows"][2].get<int>());
  EXPECT_THAT(lattice({"why", "raw[2,1]", "shrinkage"}).out,
              HasSubstr("shrinkage, row " + row + ", column thickness"));
  EXPECT_THAT(lattice({"why", "y_raw[2,0]", "shrinkage"}).out,
              HasSubstr("shrinkage, row " + row + ", column shrinkage"));
}

TEST(work, takes_fewer_rows_where_there_are_fewer_than_usual) {
  const Folder folder;
  const std::string path = folder.file("three.csv", "a,y\n1,2\n3,4\n5,7\n");
  const Words all = {"--file", path, "--target", "y", "--validation", "0", "--test", "0"};
  EXPECT_EQ(work(all)["rows"].size(), 3U);
  EXPECT_EQ(work({})["rows"].size(), 16U);
}

TEST(demo, writes_a_folder_that_leads_through_everything) {
  const Folder folder;
  const std::string tour = folder.path() / "tour";
  const Answer answer = lattice({"demo", tour});
  EXPECT_EQ(answer.status, 0) << answer.err;
  EXPECT_THAT(answer.out, HasSubstr("index.html"));
  const std::string index = content_of(tour + "/index.html");
  for (const char* text : {"$ lattice work kiln", "$ lattice why 'output.weight[0,0]' kiln",
                           "$ lattice train glazes", "Reverse sweep", "Assessment"}) {
    EXPECT_THAT(index, HasSubstr(text));
  }
  // Whatever it links to is there.
  std::size_t links = 0;
  for (const char* mark : {"href=\"", "src=\""}) {
    const std::string_view start = mark;
    for (std::size_t at = index.find(start); at != std::string::npos;
         at = index.find(start, at + 1)) {
      const std::size_t from = at + start.size();
      const std::string name = index.substr(from, index.find('"', from) - from);
      if (name.starts_with("data:")) continue;
      EXPECT_TRUE(std::filesystem::exists(std::filesystem::path(tour) / name)) << name;
      ++links;
    }
  }
  EXPECT_GE(links, 20U);
}

TEST(demo, is_a_document_for_other_programs) {
  const Folder folder;
  const Json tour = json_of(lattice({"demo", folder.path(), "--json"}));
  ASSERT_GE(tour["steps"].size(), 20U);
  for (const Json& step : tour["steps"])
    EXPECT_FALSE(step["result"].empty());
}

TEST(demo, refuses_a_folder_that_cannot_be_made) {
  const Folder folder;
  const std::string file = folder.file("taken", "");
  const Answer answer = lattice({"demo", file + "/tour"});
  EXPECT_EQ(answer.status, 2);
  EXPECT_THAT(answer.err, HasSubstr("cannot be made"));
}

TEST(work, writes_every_form_from_one_worked_example) {
  const Folder folder;
  const auto in = [&](const char* name) { return (folder.path() / name).string(); };
  const std::string lesson = in("g.toml");
  ASSERT_EQ(lattice({"new", "glazes", "--out", lesson}).status, 0);
  const Answer answer = lattice({"work", lesson, "--html", in("g.html"), "--xlsx", in("g.xlsx"),
                                 "--graph", in("g.svg"), "--json", in("g.json")});
  ASSERT_EQ(answer.status, 0) << answer.err;
  for (const char* name : {"g.html", "g.xlsx", "g.svg", "g.json"}) {
    EXPECT_GT(std::filesystem::file_size(in(name)), 5'000U);
    EXPECT_THAT(answer.out, HasSubstr(name));
  }
  EXPECT_EQ(Json::parse(content_of(in("g.json"))), json_of(lattice({"work", lesson, "--json"})));
  EXPECT_EQ(lattice({"work", "--json", lesson}).out, lattice({"work", lesson, "--json"}).out);
}

TEST(work, refuses_what_would_have_no_effect) {
  for (const Words& words : {Words{"--blanks", "3"}, Words{"--blank", "loss"}, Words{"--curves"},
                             Words{"--gradients"}, Words{"--walk", "--json"}}) {
    const Answer answer = lattice(with({"work", "kiln"}, words));
    EXPECT_EQ(answer.status, 2) << answer.out;
    EXPECT_FALSE(answer.err.empty());
  }
}

TEST(work, gives_json_as_its_schema_says) {
  const Folder folder;
  const std::string path = folder.path() / "w.json";
  const std::string schema = LATTICE_SOURCE "/docs/schemas/worked_example.schema.json";
  for (const Words& more : {Words{"glazes", "--rule", "adam", "--steps", "1,3", "--curves"},
                            Words{"shrinkage", "--l2", "0.1", "--clip-norm", "0.5"},
                            Words{"kiln", "--precision", "single", "--rule", "momentum"},
                            Words{"stamps", "--rows", "40", "--batch", "2", "--net",
                                  "conv 2 of 3x3, normalise, relu, average all, dense 8",
                                  "--augment", "shift 1, turn 9"}}) {
    ASSERT_EQ(lattice(with(with({"work"}, more), {"--json", path})).status, 0);
    const Answer answer = run_program(
        "/usr/bin/python3", {LATTICE_SOURCE "/tests/support/check_schema.py", schema, path});
    EXPECT_EQ(answer.status, 0) << answer.out << answer.err;
  }
}

TEST(work, tells_what_a_rule_remembers_and_works_out) {
  const Json second =
      json_of(lattice({"work", "glazes", "--rule", "adam", "--steps", "2,3", "--json"}));
  const Json& before = second["steps"][0]["updates"]["output.weight"];
  const Json& after = second["steps"][1]["updates"]["output.weight"];
  EXPECT_EQ(after["remembered"]["m_before"], before["worked_out"]["m"]);
  EXPECT_EQ(after["remembered"]["v_before"], before["worked_out"]["v"]);
  EXPECT_EQ(after["before"], before["after"]);
  EXPECT_EQ(before["worked_out"].size(), 4U);
}

TEST(work, folds_sections_and_tables_away) {
  const Words glazes = {"work", "glazes", "--net", "dense 8, tanh, dense 4"};
  const std::string brief = lattice(with(glazes, {"--brief"})).out;
  EXPECT_THAT(brief, HasSubstr("hidden = x·hidden.weight + hidden.bias"));
  EXPECT_LT(std::ranges::count(brief, '\n'), 80);
  const std::string only = lattice(with(glazes, {"--only", "hidden,loss"})).out;
  EXPECT_THAT(only, HasSubstr("│ ∂hidden.weight  "));
  EXPECT_THAT(only, HasSubstr("▸ 1 entry folded"));
  EXPECT_THAT(only, Not(HasSubstr("│ ∂output.weight  ")));
  const Answer wrong = lattice(with(glazes, {"--only", "hiden"}));
  EXPECT_EQ(wrong.status, 2);
  EXPECT_THAT(wrong.err, HasSubstr("did you mean hidden?"));
}

TEST(about, tells_versions_and_machine) {
  const Json about = json_of(lattice({"about", "--json"}));
  for (const char* key : {"version", "compiler", "instruction_set", "threads", "precision"}) {
    EXPECT_TRUE(about.contains(key)) << key;
  }
  EXPECT_THAT(lattice({"about"}).out, HasSubstr("instruction set"));
  EXPECT_THAT(shell("OMP_NUM_THREADS=1 $lattice about").out, HasSubstr("threads          1, "));
  EXPECT_THAT(shell("OMP_NUM_THREADS=3 $lattice about").out,
              HasSubstr("up to 3 for large products, "));
  EXPECT_EQ(json_of(shell("OMP_NUM_THREADS=3 $lattice about --json"))["threads"]["at_most"], 3);
}

struct Refused {
  Words words;
  std::string because;
};

TEST(command, refuses_bad_input_with_a_word_that_teaches) {
  const Folder folder;
  const std::string good = folder.file("good.csv", "a,b,y\n1,2,3\n4,5,6\n");
  const auto file = [&](const std::string& content) {
    static int number = 0;
    return folder.file("bad" + std::to_string(++number) + ".csv", content);
  };
  const auto on = [](const std::string& path, Words more = {}) {
    Words words = {"work", "--file", path, "--target", "y", "--validation",
                   "0",    "--test", "0",  "--batch",  "2"};
    words.insert(words.end(), more.begin(), more.end());
    return words;
  };
  ASSERT_EQ(lattice(on(good)).status, 0);

  const std::vector<Refused> refusals = {
      {on(folder.path() / "missing.csv"), "cannot read"},
      {on(folder.path()), "a folder"},
      {on(file("")), "is empty"},
      {on(file("a,b,y\n")), "has no rows"},
      {{"work", "--file", good, "--target", "z"}, "there is no column 'z'"},
      {{"work", "--file", good}, "the test part would get no row"},
      {on(good, {"--features", "a,q"}), "there is no column 'q'"},
      {on(file("a,b,y\n1,2,3\n1,red,3\n")), "row 2 (line 3 of the file), column 'b'"},
      {on(file("a,b,y\n1,2,3\n1,,3\n")), "row 2 (line 3 of the file), column 'b'"},
      {on(file("a,b,y\n1,2,3\n1,2\n")), "row 2 (line 3 of the file)"},
      {on(file("a,b,y\n1,2,nan\n1,2,3\n")), "a value is missing"},
      {on(file("a,b,y\n1,inf,2\n1,2,3\n")), "'inf' cannot be used as a number"},
      {{"work", "--batch", "0"}, "--batch cannot be '0'"},
      {{"work", "--batch", "-3"}, "--batch cannot be '-3'"},
      {{"work", "--batch", "2.5"}, "--batch cannot be '2.5'"},
      {{"work", "--batch", "61"}, "a minibatch of 61 rows cannot be taken from kiln"},
      {{"work", "--step", "0"}, "--steps cannot be '0'"},
      {{"work", "--step", "999"}, "the run has no step 999"},
      {{"work", "--net", "dense 2, tahn"}, "did you mean tanh?"},
      {{"work", "--net", "dense 2"}, "the network's outputs do not match the target"},
      {{"work", "--rule", "adm"}, "did you mean adam?"},
      {{"work", "--momentum", "0.9"}, "the rule descent has no setting 'momentum'"},
      {{"work", "--rule", "adam", "--beta-1", "1.5"}, "beta_1 is out of range"},
      {{"work", "--schedule", "weekly"}, "»weekly«"},
      {{"work", "--loss", "cross-entropy"}, "does not fit the target of kiln"},
      {{"work", "--test", "0.9", "--validation", "0.2"}, "0 + 0.2 + 0.9 = 1.1"},
      {{"work", "--test", "0.9", "--validation", "0.1"}, "there is no train part"},
      {{"work", "--train", "0.9", "--validation", "0.2", "--test", "0.2"}, "0.9 + 0.2 + 0.2 = 1.3"},
      {{"work", "--test", "1.2"}, "--test cannot be '1.2'"},
      {{"work", "--stratified"}, "stratified parts need classes"},
      {{"work", "--set", "kiln"}, "--set"},
      {{"work", "--rows", "0"}, "--rows cannot be '0'"},
      {on(good, {"--set-seed", "5"}), "--set-seed needs a demo set"},
      {{"work", "--rate", "fast"}, "--rate cannot be 'fast'"},
      {{"work", "--rate", "nan"}, "--rate cannot be 'nan'"},
      {{"work", "--rate", "-1"}, "--rate cannot be '-1'"},
      {{"work", "--seed", "-1"}, "--seed cannot be '-1'"},
      {{"work", "--digits", "99"}, "--digits cannot be '99'"},
      {{"work", "--scale", "loud"}, "--scale cannot be 'loud'"},
      {{"work", "--precision", "half"}, "--precision cannot be 'half'"},
      {{"work", "--start", "output.weight=1,2"},
       "--start output.weight has the wrong number of values"},
      {{"work", "--start", "V=1"}, "no weight is called 'V'"},
      {{"work", "--start", "output.bias=x"}, "--start output.bias=x cannot be read"},
      {{"work", "--start", "output.bias"}, "--start cannot be 'output.bias'"},
      {{"work", "kilm"}, "did you mean kiln?"},
      {{"work", "missing.toml"}, "cannot read missing.toml"},
      {{"work", "kiln", "--target", "minutes"},
       "--target, --features, --weights and --known need a file"},
      {{"why", "q[0]"}, "no line is called 'q'"},
      {{"why", "output.bias[5]"}, "there is no output.bias[5]"},
      {{"why", "output.weight[0]"}, "there is no output.weight[0]"},
      {{"why", "output[0"}, "does not say which number is meant"},
      {{"why", "x[0,0]", "--gradient"}, "there is no gradient of x"},
      {{"why", "output[0,0]", "--update"}, "output is not updated"},
      {{"why", "output.weight[0,0]", "--update", "--gradient"}, "--update"},
      {{"why"}, "place"},
      {{"train", "--epochs", "-1"}, "--epochs cannot be '-1'"},
      {{"wrok"}, "did you mean work?"},
      {{"work", "--ratte", "1"}, "did you mean --rate?"},
      {{"work", "--rate"}, "--rate"},
  };
  for (const Refused& refusal : refusals) {
    const Answer answer = lattice(refusal.words);
    std::string typed;
    for (const std::string& word : refusal.words)
      typed += word + " ";
    EXPECT_EQ(answer.status, 2) << typed;
    EXPECT_THAT(answer.err, HasSubstr(refusal.because)) << typed;
    EXPECT_THAT(answer.out, IsEmpty()) << typed;
  }
}

TEST(command, answers_json_even_with_odd_letters_in_names) {
  const Folder folder;
  const std::string path = folder.file("odd.csv", "\"a \xFF\",y\n1,2\n3,4\n");
  const Json data = json_of(lattice(
      {"data", "--file", path, "--target", "y", "--validation", "0", "--test", "0", "--json"}));
  EXPECT_EQ(data["features"].size(), 1U);
}

TEST(command, takes_a_flag_as_said_or_denied_and_a_word_once) {
  const auto shuffled = [](const Words& more) {
    return json_of(
        lattice(with({"plan", "glazes", "--json"}, more)))["settings"]["split"]["shuffled"];
  };
  EXPECT_EQ(shuffled({}), true);
  EXPECT_EQ(shuffled({"--shuffled"}), true);
  EXPECT_EQ(shuffled({"--shuffled=false"}), false);
  EXPECT_EQ(lattice({"plan", "glazes", "--rate", "0.1", "--rate", "0.2"}).status, 2);
  const Answer from = lattice({"draw", "function", "tanh", "--across", "left,4"});
  EXPECT_EQ(from.status, 2);
  EXPECT_THAT(from.err, HasSubstr("--across cannot be 'left'"));
}

TEST(command, helps) {
  for (const Words& words : {Words{"--help"}, Words{"work", "--help"}, Words{"why", "--help"}}) {
    const Answer answer = lattice(words);
    EXPECT_EQ(answer.status, 0);
    EXPECT_THAT(answer.out, HasSubstr("--help"));
    EXPECT_THAT(answer.err, IsEmpty());
  }
  EXPECT_THAT(lattice({"--version"}).out, HasSubstr("Open Lattice"));
}

TEST(command, says_when_its_answer_cannot_be_written) {
  const Answer answer =
      run_program("/bin/sh", {"-c", std::string(LATTICE_PROGRAM) + " work > /dev/full"});
  EXPECT_EQ(answer.status, 2);
  EXPECT_EQ(answer.err, "the output could not be written: No space left on device\n");
}

TEST(check, agrees_on_every_demo_set_and_in_both_precisions) {
  for (const Words& more : {Words{"kiln"}, Words{"shrinkage", "--scale", "none"},
                            Words{"shrinkage"}, Words{"kiln", "--precision", "single"}}) {
    Words words{"check", "--json"};
    words.insert(words.end(), more.begin(), more.end());
    const Json check = json_of(lattice(words));
    EXPECT_EQ(check["agrees"], true);
    EXPECT_EQ(check["weights"].size(), 2U);
    EXPECT_EQ(check["weights"]["output.bias"]["checked"], 1);
    EXPECT_NEAR(check["weights"]["output.bias"]["engine"],
                check["weights"]["output.bias"]["difference"],
                1e-3 * std::abs(check["weights"]["output.bias"]["engine"].get<double>()));
  }
}

TEST(check, prints_a_table_by_weight) {
  const Answer answer = lattice({"check", "kiln"});
  EXPECT_EQ(answer.status, 0);
  EXPECT_THAT(answer.out, HasSubstr("output.weight[0,0]"));
  EXPECT_THAT(answer.out, HasSubstr("1 of 1"));
  EXPECT_THAT(answer.out, HasSubstr("All gradients agree"));
  EXPECT_THAT(answer.err, IsEmpty());
}

TEST(check, answers_no_with_status_1_when_a_gradient_does_not_agree) {
  const Words strict{"check", "kiln", "--tolerance", "1e-16"};
  const Answer answer = lattice(strict);
  EXPECT_EQ(answer.status, 1);
  EXPECT_THAT(answer.out, HasSubstr("differs"));
  EXPECT_THAT(answer.out, HasSubstr("Some gradients do not agree"));
  Words as_json = strict;
  as_json.emplace_back("--json");
  const Answer json = lattice(as_json);
  EXPECT_EQ(json.status, 1);
  EXPECT_EQ(Json::parse(json.out)["agrees"], false);
}

TEST(check, refuses_impossible_steps_and_tolerances) {
  for (const char* option : {"--move", "--tolerance"}) {
    for (const char* number : {"0", "-1", "x", "inf"}) {
      const Answer answer = lattice({"check", "kiln", option, number});
      EXPECT_EQ(answer.status, 2) << option << number;
      EXPECT_THAT(answer.err, HasSubstr(option));
    }
  }
}

TEST(why, explains_the_numbers_of_an_explanation_in_turn) {
  const Answer answer = lattice({"why", "loss", "kiln", "--batch", "2", "--depth", "3"});
  EXPECT_EQ(answer.status, 0);
  EXPECT_THAT(answer.out, HasSubstr("loss = 0.5·m"));
  EXPECT_THAT(answer.out, HasSubstr("\n    m = (s[0,0] + s[1,0])/2"));
  EXPECT_THAT(answer.out, HasSubstr("\n        s[0,0] = e[0,0]²"));
  EXPECT_THAT(answer.out, HasSubstr("\n            e[0,0] = output[0,0] − y[0,0]"));
  const Json chain = json_of(lattice({"why", "output.weight[0,0]", "kiln", "--scale", "none",
                                      "--update", "--depth", "2", "--batch", "2", "--json"}));
  EXPECT_EQ(chain["because"][0]["subject"], "∂loss/∂output.weight[0,0]");
  EXPECT_EQ(chain["because"][0]["because"].size(), 2U);
  EXPECT_EQ(lattice({"why", "loss", "kiln", "--depth", "-1"}).status, 2);
  EXPECT_EQ(lattice({"why", "loss", "kiln", "--depth", "many"}).status, 2);
}

TEST(work, names_the_first_number_that_is_none) {
  const Folder folder;
  const std::string file = folder.file("large.csv", "a,b\n1e200,1\n2,2\n");
  const Answer answer = lattice({"work", "--file", file, "--target", "a", "--scale", "none",
                                 "--validation", "0", "--test", "0", "--batch", "2"});
  EXPECT_EQ(answer.status, 0);
  EXPECT_THAT(answer.err, HasSubstr("is ∞: the first such number, on line"));
  EXPECT_THAT(answer.err, HasSubstr("square"));
}

TEST(work, goes_to_any_step_of_a_run) {
  const Words settings = {"glazes", "--net", "dense 6, tanh, dense 4", "--rule", "adam"};
  Words words = settings;
  words.insert(words.end(), {"--step", "75"});
  const Json last = work(words);
  words.back() = "76";
  const Json next = work(words);
  EXPECT_EQ(last["updates"]["hidden.weight"]["after"], next["updates"]["hidden.weight"]["before"]);
  EXPECT_EQ(last["rows"].size(), 16U);
  words.insert(words.begin(), {"why", "hidden.weight[2,1]", "--update", "--json"});
  const Json why = json_of(lattice(words));
  EXPECT_EQ(why["value"], next["updates"]["hidden.weight"]["after"][2][1]);
  EXPECT_NEAR(why["evaluates_to"], why["value"], 1e-15);
  EXPECT_TRUE(why["with"].contains("m̂"));
}

}  // namespace
}  // namespace lattice::testing
