#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <cmath>
#include <filesystem>
#include <fstream>
#include <set>
#include <sstream>

#include "lattice/data/demo_sets.hpp"
#include "support/learning.hpp"

/// The verbs that look at data, judge, answer and compare.
namespace lattice::testing {
namespace {

using ::testing::AllOf;
using ::testing::HasSubstr;
using ::testing::Not;

TEST(assess, judges_every_part_and_other_rows) {
  const Folder folder;
  const std::string model = folder.path() / "m.lattice";
  ASSERT_EQ(lattice(with(glazes, {"--epochs", "20", "--save", model})).status, 0);
  const Json judged = json_of(lattice({"assess", model, "--top", "3", "--json"}));
  EXPECT_EQ(judged["parts"]["test"]["rows"], 60);
  EXPECT_EQ(judged["parts"]["test"]["top"]["k"], 3);
  EXPECT_EQ(judged["parts"]["test"]["confusion"].size(), 4U);
  const Answer text = lattice({"assess", model});
  for (const char* piece : {"Test part by class", "precision", "recall", "F1", "uniform guess",
                            "always naming", "gap = test − train"}) {
    EXPECT_THAT(text.out, HasSubstr(piece));
  }
  const Answer train = lattice({"assess", model, "--part", "train"});
  EXPECT_THAT(train.out,
              AllOf(HasSubstr("Train part by class"), Not(HasSubstr("Test part by class"))));
  const Answer all = lattice({"assess", model, "--part", "all"});
  for (const char* piece :
       {"Train part by class", "Validation part by class", "Test part by class"})
    EXPECT_THAT(all.out, HasSubstr(piece));
  EXPECT_THAT(lattice({"assess", model, "--part", "tests"}).err, HasSubstr("did you mean test?"));
  EXPECT_THAT(lattice({"assess", model, "--part", "train", "--at-least", "0.5"}).out,
              HasSubstr("accuracy on train: "));
  // For groups without names, and on request alone.
  EXPECT_THAT(text.out, Not(HasSubstr("as groups")));
  EXPECT_FALSE(judged["parts"]["test"].contains("as_groups"));
  EXPECT_THAT(lattice({"assess", model, "--as-groups"}).out, HasSubstr("as groups without names"));
  const Json groups = json_of(lattice({"assess", model, "--as-groups", "--json"}));
  EXPECT_EQ(groups["parts"]["test"]["as_groups"]["taken_for"]["shino"], "shino");
  const std::string glazes_csv = LATTICE_SOURCE "/demo/data/glazes.csv";
  const Json others = json_of(lattice({"assess", model, "--file", glazes_csv, "--json"}));
  EXPECT_EQ(others["parts"]["glazes.csv"]["rows"], 2000);
  EXPECT_GT(others["parts"]["glazes.csv"]["accuracy"], 0.9);
  EXPECT_EQ(lattice({"assess", model, "--at-least", "0.5"}).status, 0);
  EXPECT_EQ(lattice({"assess", model, "--file", glazes_csv, "--at-least", "0.9999"}).status, 1);
}

TEST(ask, takes_rows_of_its_data_and_runs_over_seeds) {
  const Folder folder;
  const std::string model = folder.path() / "m.lattice";
  ASSERT_EQ(lattice(with(glazes, {"--epochs", "5", "--save", model})).status, 0);
  const Json rows = json_of(lattice({"ask", model, "--row", "3,17", "--json"}));
  ASSERT_EQ(rows["answers"].size(), 2U);
  const Answer text = lattice({"ask", model, "--row", "3,17"});
  EXPECT_THAT(text.out, AllOf(HasSubstr("row 17"), HasSubstr("truth"), HasSubstr("iron ")));
  EXPECT_THAT(lattice({"ask", model, "--record", "4,30,2,3,1200"}).out,
              HasSubstr("iron 4, lightness 30, thickness 2, gloss 3, peak 1200\n"));
  EXPECT_THAT(lattice({"ask", model, "--row", "999"}).err, HasSubstr("0 to 299"));
  EXPECT_THAT(lattice({"ask", model, "--row", "1", "--record", "1,2,3,4,5"}).err,
              HasSubstr("exactly one kind of question"));

  const Json over =
      json_of(lattice({"ask", model, "--row", "3", "--seeds", "3", "--json"}))["over_seeds"];
  EXPECT_EQ(over["seeds"].dump(), "[1,2,3]");
  // The same by hand: three runs, one after another.
  std::vector<double> shares;
  for (const char* seed : {"1", "2", "3"}) {
    const std::string other = folder.path() / "other.lattice";
    ASSERT_EQ(lattice(with(glazes, {"--epochs", "5", "--seed", seed, "--save", other})).status, 0);
    const Json answer = json_of(lattice({"ask", other, "--row", "3", "--json"}))["answers"][0];
    shares.push_back(answer["probabilities"]["shino"].get<double>());
  }
  const double mean = (shares[0] + shares[1] + shares[2]) / 3.0;
  double squares = 0.0;
  for (const double share : shares)
    squares += (share - mean) * (share - mean);
  EXPECT_NEAR(over["answers"][0]["shino"]["mean"].get<double>(), mean, 1e-12);
  EXPECT_NEAR(over["answers"][0]["shino"]["standard_deviation"].get<double>(),
              std::sqrt(squares / 2.0), 1e-12);
  EXPECT_THAT(
      lattice({"ask", model, "--row", "3", "--seeds", "2"}).out,
      AllOf(HasSubstr("answered by"), HasSubstr("Over 2 seeds, from 1 to 2"), HasSubstr(" ± ")));
}

TEST(ask, takes_records_by_position_and_says_levels_where_there_are_no_probabilities) {
  const Folder folder;
  const std::string model = folder.path() / "m.lattice";
  ASSERT_EQ(lattice({"train", "glazes", "--rows", "200", "--loss", "mean squared", "--batch", "all",
                     "--rule", "adam", "--rate", "0.1", "--epochs", "30", "--save", model})
                .status,
            0);
  const Json by_name =
      json_of(lattice({"ask", model, "--record",
                       "gloss=40,iron=1,lightness=80,thickness=1.5,peak=1216", "--json"}));
  const Json by_place = json_of(lattice({"ask", model, "--record", "1,80,1.5,40,1216", "--json"}));
  EXPECT_EQ(by_place["answers"], by_name["answers"]);
  EXPECT_EQ(by_place["answers"][0]["glaze"], "shino");
  EXPECT_TRUE(by_place["answers"][0].contains("levels"));
  EXPECT_THAT(lattice({"ask", model, "--record", "1,80"}).err,
              HasSubstr("or all 5 values in this order"));
  const Json file = json_of(
      lattice({"train", "glazes", "--rows", "200", "--batch", "all", "--epochs", "1", "--json"}));
  EXPECT_EQ(file["run"]["updates"], 1);
  EXPECT_EQ(file["settings"]["training"]["batch"], "all");
}

TEST(ask, answers_in_class_names_and_probabilities) {
  const Folder folder;
  const std::string model = folder.path() / "m.lattice";
  ASSERT_EQ(lattice({"train", "cracks", "--net", "dense 8, tanh, dense 1", "--rule", "adam",
                     "--rate", "0.02", "--epochs", "20", "--save", model})
                .status,
            0);
  const Json answers = json_of(lattice({"ask", model, "--record", "thickness=9,hours=33",
                                        "--record", "hours=5,thickness=14", "--json"}))["answers"];
  EXPECT_EQ(answers[0]["state"], "sound");
  EXPECT_EQ(answers[1]["state"], "cracked");
  EXPECT_NEAR(answers[0]["probabilities"]["sound"].get<double>() +
                  answers[0]["probabilities"]["cracked"].get<double>(),
              1.0, 1e-12);
  struct Refused {
    Words words;
    std::string because;
  };
  for (const Refused& refusal : std::vector<Refused>{
           {{"--record", "thickness=9"}, "a feature is missing: hours"},
           {{"--record", "thickness=9,hours=3,gloss=4"}, "the model knows no feature 'gloss'"},
           {{"--record", "thickness=9,hour=3"}, "did you mean hours?"},
           {{"--record", "thickness=9,hours=3,hours=4"}, "is given twice"},
           {{"--record", "9"}, "does not say which feature it is"},
           {{"--record", "thickness=thick,hours=3"}, "'thick' cannot be used as a number"},
           {{"--record", "thickness=,hours=3"}, "a value is missing"},
           {{}, "one of --record, --file and --row"},
           {{"--file", folder.file("new.csv", "thickness\n4\n")}, "a feature is missing: hours"}}) {
    const Answer answer = lattice(with({"ask", model}, refusal.words));
    EXPECT_EQ(answer.status, 2);
    EXPECT_THAT(answer.err, HasSubstr(refusal.because));
  }
  const std::string more = folder.file("more.csv", "thickness,note,hours\n4,x,30\n");
  const Answer extra = lattice({"ask", model, "--file", more});
  EXPECT_EQ(extra.status, 0);
  EXPECT_THAT(extra.err, HasSubstr("ignores them: note"));
}

// Weights that are no numbers, and records so large that a sum overflows: no answer is made up.
TEST(ask, says_where_the_numbers_went_astray_instead_of_an_answer) {
  const Folder folder;
  const std::string path = folder.path() / "m.lattice";
  ASSERT_EQ(lattice({"train", "glazes", "--rows", "60", "--epochs", "1", "--scale", "none",
                     "--rate", "1e-6", "--save", path})
                .status,
            0);
  const Answer huge = lattice({"ask", path, "--record", "1e308,1e308,1e308,1e308,1e308"});
  EXPECT_EQ(huge.status, 1);
  EXPECT_THAT(huge.err, AllOf(HasSubstr("record 0 has no answer"), HasSubstr("cause:")));
  EXPECT_THAT(huge.out, AllOf(HasSubstr("no answer"), Not(HasSubstr("100.0 %"))));
  const Json answer = Json::parse(lattice({"ask", path, "--record", "1e308,1e308,1e308,1e308,1e308",
                                           "--record", "1,2,3,4,5", "--json"})
                                      .out)["answers"];
  EXPECT_TRUE(answer[0]["glaze"].is_null());
  EXPECT_FALSE(answer[0].contains("probabilities"));
  EXPECT_TRUE(answer[1]["glaze"].is_string());

  Json model = Json::parse(content_of(path));
  model["network"]["weights"]["output.weight"][0][0] = "NaN";
  const std::string spoilt = folder.file("spoilt.lattice", model.dump());
  const Answer nan = lattice({"ask", spoilt, "--record", "1,2,3,4,5"});
  EXPECT_EQ(nan.status, 1);
  EXPECT_THAT(nan.err, AllOf(HasSubstr("output.weight[0,0] is NaN"), Not(HasSubstr("memory"))));
  // Nothing is among the likeliest where nothing is known to be likelier.
  EXPECT_EQ(json_of(lattice({"assess", spoilt, "--json"}))["parts"]["test"]["top"]["accuracy"],
            0.0);
  for (const char* const picture : {"a.svg", "a.png"}) {
    EXPECT_EQ(
        lattice({"ask", spoilt, "--record", "1,2,3,4,5", "--draw", folder.path() / picture}).status,
        1);
  }
}

TEST(compare, calls_different_rows_differently) {
  const Folder folder;
  const std::string lesson = folder.file("a.toml", "[training]\nepochs = 1\n");
  for (const Words& more : {Words{}, Words{"--seeds", "2"}, Words{"--folds", "2"}}) {
    for (const Words& words :
         {Words{"compare", lesson, lesson},
          Words{
              "compare", "cracks", "--epochs", "1", "--vary",
              "net=dense 8, tanh, dense 8, tanh, dense 2|dense 8, tanh, dense 8, relu, dense 2"}}) {
      const Answer answer = lattice(with(words, more));
      ASSERT_EQ(answer.status, 0) << answer.err;
      std::set<std::string> labels;
      std::istringstream lines(answer.out);
      int rows = 0;
      bool in_table = false;
      for (std::string line; std::getline(lines, line);) {
        in_table = in_table || line.find("train loss") != std::string::npos;
        if (!in_table || line.empty() || line.front() == ' ') continue;
        if (line.find("±") == 0 || line.find("The ") == 0) break;
        labels.insert(line.substr(0, line.find("  ")));
        ++rows;
      }
      EXPECT_EQ(rows, 2) << answer.out;
      EXPECT_EQ(labels.size(), 2U) << answer.out;
    }
  }
}

TEST(compare, tells_rows_apart_and_does_not_compare_what_cannot_be) {
  const Folder folder;
  const Words words = {"compare", "glazes", "--rows", "200", "--epochs", "2"};
  const std::string twice = lattice(with(words, {"--vary", "rate=0.1,0.1"})).out;
  EXPECT_THAT(twice,
              AllOf(HasSubstr("\nrate 0.1 (1)       24"), HasSubstr("\nrate 0.1 (2)       24")));
  const std::string one =
      folder.file("a_very_long_name_for_a_lesson_one.toml", "[data]\nset = \"kiln\"\nrows = 30\n");
  const std::string two =
      folder.file("a_very_long_name_for_a_lesson_two.toml", "[data]\nset = \"kiln\"\nrows = 40\n");
  const Answer other_rows = lattice({"compare", one, two, "--epochs", "2"});
  EXPECT_EQ(other_rows.status, 0);
  EXPECT_THAT(other_rows.out,
              AllOf(HasSubstr("no figure says which is best"), HasSubstr("1: kiln, 30 rows"),
                    HasSubstr("2: kiln, 40 rows"), Not(HasSubstr("The lowest"))));
  EXPECT_TRUE(json_of(lattice({"compare", one, two, "--epochs", "2", "--json"}))["best"].is_null());
  const Answer losses = lattice(
      {"compare", "kiln", "--epochs", "2", "--vary", "loss=mean squared,half mean squared"});
  EXPECT_THAT(losses.out, HasSubstr("no figure says which is best"));

  // A loss that grew, and one that is no number: said, and not taken for the best.
  const Answer wild =
      lattice({"compare", "kiln", "--scale", "none", "--epochs", "40", "--vary", "rate=1000,0.02"});
  EXPECT_THAT(wild.err, HasSubstr("rate-too-high: rate 1000: the loss of the train part went"));
  const Words starts = {"compare",  "glazes", "--rows", "100",
                        "--epochs", "2",      "--vary", "start=constant 1e308|xavier",
                        "--json"};
  const Json no_number = json_of(lattice(starts));
  EXPECT_FALSE(no_number["compared"][0]["parts"]["validation"]["loss"].is_number());
  EXPECT_EQ(no_number["best"], "start xavier");
  EXPECT_THAT(wild.out,
              AllOf(HasSubstr("The lowest validation loss: rate 0.02"), HasSubstr("diverged")));
}

TEST(compare, takes_models_and_shows_test_figures_when_asked) {
  const Folder folder;
  const std::string small = folder.path() / "small.lattice";
  const std::string large = folder.path() / "large.lattice";
  const Words base = {"train", "glazes", "--rows", "300", "--epochs", "4"};
  ASSERT_EQ(lattice(with(base, {"--save", small})).status, 0);
  ASSERT_EQ(lattice(with(base, {"--net", "dense 8, tanh, dense 4", "--save", large})).status, 0);
  const Json json = json_of(lattice({"compare", small, large, "--json"}));
  for (const auto& [at, path] : {std::pair<std::size_t, std::string>{0, small}, {1, large}}) {
    const Json alone = json_of(lattice({"assess", path, "--json"}));
    EXPECT_EQ(json["compared"][at]["parts"]["test"]["loss"], alone["parts"]["test"]["loss"]);
  }
  const Answer shown = lattice({"compare", small, large, "--test-figures"});
  EXPECT_THAT(shown.out, AllOf(HasSubstr("test loss"), Not(HasSubstr("Its test part"))));
  EXPECT_THAT(shown.err, HasSubstr("chosen-by-test"));
  EXPECT_THAT(lattice({"compare", small, large}).err, Not(HasSubstr("chosen-by-test")));
  EXPECT_THAT(lattice({"compare", small, "--vary", "rate=1,2"}).err,
              HasSubstr("a trained model has its settings"));
  EXPECT_THAT(lattice({"compare", small, large, "--epochs", "3"}).err, HasSubstr("--epochs"));
}

TEST(compare, calls_no_seed_best_and_puts_titles_before_paths) {
  const Folder folder;
  const Answer seeds =
      lattice({"compare", "--net", "dense 1", "--epochs", "2", "--vary", "seed=1,2,3"});
  EXPECT_THAT(seeds.out, AllOf(HasSubstr("Only the seed differs: the validation loss is"),
                               HasSubstr("No seed is better"), Not(HasSubstr("The lowest")),
                               Not(HasSubstr(" · seed 1"))));
  EXPECT_TRUE(json_of(lattice({"compare", "--epochs", "2", "--vary", "seed=1,2", "--json"}))["best"]
                  .is_null());
  EXPECT_THAT(lattice({"compare", "--epochs", "2", "--seeds", "2"}).err,
              HasSubstr("seed 2: 2 epochs"));
  const std::string titled =
      folder.file("a.toml", "title = \"Hot kiln\"\n[training]\nepochs = 2\n");
  EXPECT_THAT(lattice({"compare", titled, "kiln", "--epochs", "2"}).out,
              AllOf(HasSubstr("\nHot kiln "), HasSubstr("\nkiln ")));
  // Long names that differ somewhere are told by what differs.
  const Answer nets = lattice(
      {"compare", "glazes", "--rows", "100", "--epochs", "1", "--vary",
       "net=dense 8, tanh, dense 8, tanh, dense 8, tanh, dense 4|dense 8, tanh, dense 9, tanh, "
       "dense 8, tanh, dense 4"});
  EXPECT_THAT(nets.out, AllOf(HasSubstr("\n1: 8 "), HasSubstr("\n2: 9 ")));
}

TEST(compare, puts_settings_side_by_side_on_the_same_rows) {
  const Folder folder;
  const std::string csv = folder.path() / "curves.csv";
  const Words words = {"compare", "glazes", "--rows", "300", "--rule", "adam", "--epochs", "5"};
  const Answer text = lattice(with(words, {"--vary", "rate=0.1,0.01,0.001", "--csv", csv}));
  EXPECT_EQ(text.status, 0);
  for (const char* piece : {"rate 0.1", "rate 0.001", "The lowest validation loss: ",
                            "not used in the choice", "seed 1", "updates", "dense 4", "batch 16"})
    EXPECT_THAT(text.out, HasSubstr(piece));
  EXPECT_THAT(text.out, Not(HasSubstr("adam rate"))) << "only what all have stands above";
  std::ifstream file(csv);
  int lines = 0;
  for (std::string line; std::getline(file, line);)
    ++lines;
  EXPECT_EQ(lines, 1 + 3 * 6);
  const Json json = json_of(lattice(with(words, {"--vary", "net=dense 4|dense 8, tanh, dense 4",
                                                 "--vary", "rate=0.1,0.01", "--json"})));
  ASSERT_EQ(json["compared"].size(), 4U);
  EXPECT_EQ(json["compared"][2]["net"], "dense 8, tanh, dense 4");
  EXPECT_EQ(json["compared"][2]["weights"], 84);
  for (const Json& outcome : json["compared"])
    EXPECT_EQ(outcome["parts"]["test"]["rows"], 60);
  EXPECT_THAT(lattice(words).err, HasSubstr("there is nothing to compare"));
  EXPECT_THAT(lattice(with(words, {"--vary", "rat=1,2"})).err, HasSubstr("did you mean rate?"));
  EXPECT_THAT(lattice(with(words, {"--vary", "rate=1,fast"})).err,
              HasSubstr("--rate cannot be 'fast'"));
  EXPECT_THAT(lattice(with(words, {"--vary", "rate=1,2", "--validation", "0"})).err,
              HasSubstr("no-validation"));
}

TEST(data, tells_what_to_type_as_a_shell_takes_it) {
  const Folder folder;
  const std::string table = folder.file("t.csv", "the potter's wall,kind\n1,a\n2,b\n3,a\n4,b\n");
  EXPECT_THAT(lattice({"data", "--file", table, "--target", "the potters wall"}).err,
              HasSubstr("--target 'the potter'\\''s wall'"));
  // What is no lesson may be meant as rows.
  const std::string named = folder.file("it's $(rows).csv", "a,b\n1,2\n");
  EXPECT_THAT(lattice({"data", named}).err, HasSubstr("if it holds rows, give it as: --file '"));
  EXPECT_THAT(lattice({"data", named}).err, HasSubstr("/it'\\''s $(rows).csv'"));
  EXPECT_THAT(lattice({"data", folder.file("l.toml", "a,b\n1,2\n")}).err, Not(HasSubstr("--file")));
  EXPECT_THAT(lattice({"data", "--file", table, "--target", "kin"}).err,
              HasSubstr("--target kind"));
}

TEST(data, lists_sets_and_looks_at_tables) {
  const Json sets = json_of(lattice({"data", "--json"}));
  EXPECT_EQ(sets["sets"].size(), 7U);
  const Json look = json_of(lattice({"data", "glazes", "--json"}));
  EXPECT_EQ(look["rows"], 2000);
  EXPECT_EQ(look["targets"][0]["classes"].size(), 4U);
  EXPECT_EQ(look["features"][4]["name"], "peak");
  EXPECT_TRUE(look["remarks"].empty());
  const Json raw = json_of(lattice({"data", "glazes", "--scale", "none", "--json"}));
  EXPECT_EQ(raw["remarks"][0]["code"], "features-differ");
  const Folder folder;
  const std::string table = folder.file("t.csv", made_up_table(100));
  const Answer text = lattice({"data", "--file", table, "--target", "kind"});
  EXPECT_THAT(text.out, AllOf(HasSubstr("clay=red"), HasSubstr("wall, mm"), HasSubstr("vase")));
  EXPECT_THAT(text.err, HasSubstr("left out: id"));
  const Answer without_target = lattice({"data", "--file", table});
  EXPECT_EQ(without_target.out, text.out);
  EXPECT_THAT(without_target.err, HasSubstr("the last column, 'kind', is taken for the target"));
}

TEST(data, writes_a_set_out_and_makes_it_from_another_seed) {
  const Folder folder;
  const std::string path = (folder.path() / "cracks.csv").string();
  const Answer written =
      lattice({"data", "cracks", "--rows", "40", "--set-seed", "9", "--csv", path});
  EXPECT_THAT(written.out, HasSubstr("written: " + path));
  const Dataset made = demo_set("cracks", 40, 9);
  EXPECT_EQ(read_csv(path, {.targets = {"state"}}).features, made.features);
  EXPECT_EQ(read_csv(path, {.targets = {"state"}}).classes, made.classes);
  EXPECT_NE(demo_set("cracks", 40, 1).features, made.features);
  EXPECT_EQ(lattice({"data", path, "--csv", path}).status, 2);
  EXPECT_THAT(lattice({"data", "--file", path, "--csv", path}).err, HasSubstr("--csv"));
  EXPECT_THAT(lattice({"data", "--csv", path}).err, HasSubstr("--csv writes out one set"));
  // Rows that are too few to be dealt out can be looked at.
  const Answer two = lattice({"data", "cracks", "--rows", "2"});
  EXPECT_EQ(two.status, 0);
  EXPECT_THAT(two.err, HasSubstr("the test part would get no row"));
}

TEST(data, draws_some_rows_of_several_files_by_the_seed) {
  const Folder folder;
  const std::string one = folder.file("one.csv", "a,y\n1,10\n2,20\n3,30\n4,40\n");
  const std::string two = folder.file("two.json", R"([{"y": 50, "a": 5}, {"y": 60, "a": 6}])");
  const auto rows = [&](const char* seed) {
    const std::string path = (folder.path() / "drawn.csv").string();
    const Words words = {"data",   "--file", one,      "--file", two,     "--target", "y",
                         "--rows", "4",      "--seed", seed,     "--csv", path};
    EXPECT_THAT(lattice(words).err, HasSubstr("one.csv and two.json: 4 of 6 rows were drawn"));
    return read_csv(path, {.targets = {"y"}}).features.numbers();
  };
  const std::vector<double> drawn = rows("1");
  EXPECT_EQ(drawn.size(), 4U);
  EXPECT_TRUE(std::ranges::is_sorted(drawn)) << "rows keep their order";
  EXPECT_EQ(rows("1"), drawn);
  EXPECT_NE(rows("2"), drawn);
  const Json all =
      json_of(lattice({"data", "--file", one, "--file", two, "--rows", "9", "--json"}));
  EXPECT_EQ(all["rows"], 6);
  EXPECT_FALSE(all.contains("rows_drawn_from"));
  EXPECT_EQ(all["targets"][0]["highest"], 60.0);
}

TEST(plan, passes_a_shape_through) {
  const Json plan =
      json_of(lattice({"plan", "glazes", "--net", "dense 8, tanh, dense 4", "--json"}));
  EXPECT_EQ(plan["weights"], 84);
  const Answer text = lattice({"plan", "--net", "dense 3, dense 2", "--inputs", "7"});
  EXPECT_THAT(text.out, AllOf(HasSubstr("weight 7×3"), HasSubstr("32 numbers are trained")));
}

}  // namespace
}  // namespace lattice::testing
