#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <filesystem>
#include <fstream>

#include "lattice/data/demo_sets.hpp"
#include "lattice/files/csv.hpp"
#include "lattice/files/idx.hpp"
#include "support/command.hpp"

/// Data as people have it: parts and classes in files of their own.
namespace lattice::testing {
namespace {

using ::testing::AllOf;
using ::testing::HasSubstr;
using ::testing::Not;

/// Two files of glazes, and the words of a lesson on them.
class Glazes {
 public:
  Glazes() {
    may = folder.file("may.csv", to_csv(demo_set("glazes", 200, 1)));
    june = folder.file("june.csv", to_csv(demo_set("glazes", 50, 2)));
  }

  [[nodiscard]] Words train(const Words& more = {}) const {
    return with({"train", "--file", may, "--target", "glaze", "--epochs", "3"}, more);
  }

  Folder folder;
  std::string may;
  std::string june;
};

TEST(test_file, is_in_all_figures_and_in_the_model) {
  const Glazes glazes;
  const std::string model = glazes.folder.path() / "m.lattice";
  const Answer answer = lattice(glazes.train({"--test-file", glazes.june, "--save", model}));
  EXPECT_THAT(answer.out, HasSubstr("160 train, 40 validation, 50 test from june.csv"));
  EXPECT_THAT(answer.out, HasSubstr("gap = test − train"));
  const Json file = Json::parse(content_of(model));
  EXPECT_EQ(file["data"]["rows"], 250);
  EXPECT_EQ(file["data"]["parts"]["test"]["name"], "june.csv");
  EXPECT_EQ(file["data"]["parts"]["test"]["rows"], 50);
  // The same figures as those of the file by itself.
  const Json parts = json_of(lattice({"assess", model, "--json"}))["parts"];
  const Json alone = json_of(lattice({"assess", model, "--file", glazes.june, "--json"}))["parts"];
  EXPECT_EQ(parts["test"]["loss"], alone["june.csv"]["loss"]);
  EXPECT_EQ(parts["test"]["confusion"], alone["june.csv"]["confusion"]);
  EXPECT_THAT(lattice({"assess", model, "--file", glazes.june}).out,
              AllOf(HasSubstr("Rows of the file by class"), Not(HasSubstr("part by class"))));

  std::ofstream(glazes.june) << to_csv(demo_set("glazes", 50, 3));
  EXPECT_THAT(
      lattice({"assess", model}).err,
      AllOf(HasSubstr("the rows of the test file have changed"), HasSubstr("june.csv, 50 rows")));
}

TEST(test_file, stands_in_a_lesson_beside_counts_of_rows) {
  const Glazes glazes;
  const std::string lesson = glazes.folder.file(
      "l.toml",
      "[data]\nfile = \"may.csv\"\ntarget = \"glaze\"\nrows = 120\n"
      "[split]\nvalidation_file = \"june.csv\"\nvalidation = 20\ntrain = 100\nstratified = true\n"
      "[training]\nepochs = 1\n");
  const Answer answer = lattice({"train", lesson});
  EXPECT_THAT(answer.out, HasSubstr("100 train, 20 validation from june.csv, 20 test"));
  EXPECT_THAT(answer.err, HasSubstr("may.csv: 120 of 200 rows were drawn, by the seed"));
  const Answer typed = lattice({"train", lesson, "--validation-file", glazes.may});
  EXPECT_THAT(typed.out, HasSubstr("20 validation from may.csv"));
  EXPECT_THAT(typed.err, HasSubstr("shared-rows: "));
}

TEST(test_file, is_refused_where_it_does_not_fit) {
  const Glazes glazes;
  const auto refused = [&](const std::string& content) {
    const std::string path = glazes.folder.file("bad, \"`$(x)`.csv", content);
    const Answer answer = lattice(glazes.train({"--test-file", path}));
    EXPECT_EQ(answer.status, 2);
    return answer.err;
  };
  const std::string header = "iron,lightness,thickness,gloss,peak,glaze\n";
  EXPECT_THAT(refused(header + "1,2,3,4,5,chun\n"),
              AllOf(HasSubstr("'chun' was never seen"), HasSubstr("row 1 (line 2 of the file)")));
  EXPECT_THAT(refused("iron,glaze\n1,ash\n"), HasSubstr("other columns than may.csv"));
  EXPECT_THAT(refused(header + "1,2,3,,5,ash\n"), HasSubstr("a value is missing"));
  EXPECT_THAT(lattice({"train", "glazes", "--test-file", glazes.june}).err,
              HasSubstr("--test-file needs --file"));
  EXPECT_THAT(lattice(glazes.train({"--test-file", glazes.june, "--test", "51"})).err,
              HasSubstr("at most 50"));
  EXPECT_THAT(lattice(glazes.train({"--train", "150", "--validation", "60"})).err,
              HasSubstr("150 + 60 + 0"));
  EXPECT_THAT(lattice(glazes.train({"--train", "150.5"})).err,
              HasSubstr("a number of rows from 2"));
  EXPECT_THAT(lattice({"train", "--file", "ash=" + glazes.may, "--target", "glaze"}).err,
              HasSubstr("a class for a file that is a table"));
  EXPECT_THAT(lattice(glazes.train({"--test-file", "/dev/zero"})).err, HasSubstr("cannot read"));
}

TEST(rows_of_a_file, are_worked_asked_and_drawn_by_a_model) {
  const Glazes glazes;
  const std::string model = glazes.folder.path() / "m.lattice";
  ASSERT_EQ(lattice(glazes.train({"--save", model})).status, 0);
  // The rows that it learnt from are not needed for that.
  std::filesystem::remove(glazes.may);
  const Words rows = {"--file", glazes.june};
  const Json asked = json_of(lattice(with({"ask", model, "--json"}, rows)));
  const Json worked = json_of(lattice(with({"work", model, "--row", "7", "--json"}, rows)));
  EXPECT_EQ(worked["title"], "may.csv: row 7 of june.csv");
  EXPECT_THAT(lattice(with({"why", "raw[0,1]", model, "--row", "7"}, rows)).out,
              HasSubstr("given"));
  EXPECT_THAT(lattice(with({"work", model, "--wrong", "1", "--brief"}, rows)).out,
              HasSubstr("given, and asked about"));
  EXPECT_THAT(lattice(with({"work", model, "--row", "50"}, rows)).err,
              HasSubstr("june.csv has no row 50"));
  EXPECT_THAT(lattice(with({"work", model, "--record", "1,2,3,4,5"}, rows)).err,
              HasSubstr("--file needs rows of it"));
  for (const char* chart : {"samples", "confusion"}) {
    const std::string picture = glazes.folder.path() / (std::string(chart) + ".svg");
    const Answer answer = lattice(with({"draw", chart, model, "--out", picture}, rows));
    EXPECT_EQ(answer.status, 0) << answer.err;
    EXPECT_THAT(content_of(picture), HasSubstr("june.csv"));
  }
  EXPECT_THAT(lattice(with({"draw", "weights", model}, rows)).err,
              HasSubstr("--file is for a lesson"));
  EXPECT_EQ(asked["answers"].size(), 50U);
}

TEST(ask, shows_the_truth_beside_answers_and_tallies_them) {
  const Glazes glazes;
  const std::string model = glazes.folder.path() / "m.lattice";
  ASSERT_EQ(lattice(glazes.train({"--save", model})).status, 0);
  const Answer text = lattice({"ask", model, "--file", glazes.june});
  EXPECT_THAT(text.out, AllOf(HasSubstr("truth"), HasSubstr("✗"), HasSubstr("answers: "),
                              HasSubstr("right: ")));
  const Answer brief = lattice({"ask", model, "--file", glazes.june, "--brief"});
  EXPECT_THAT(brief.out, AllOf(HasSubstr("share"), Not(HasSubstr("celadon   shino"))));
  const Json json = json_of(lattice({"ask", model, "--file", glazes.june, "--json"}));
  std::int64_t right = 0;
  std::map<std::string, std::int64_t> tally;
  for (const Json& answer : json["answers"]) {
    right += answer["truth"]["glaze"] == answer["glaze"] ? 1 : 0;
    ++tally[answer["glaze"]];
  }
  EXPECT_EQ(json["right"], right);
  EXPECT_EQ(json["with_truth"], 50);
  EXPECT_EQ(json["tally"], Json(tally));
  const Json judged = json_of(lattice({"assess", model, "--file", glazes.june, "--json"}));
  EXPECT_NEAR(judged["parts"]["june.csv"]["accuracy"].get<double>(),
              static_cast<double>(right) / 50.0, 1e-12);
  // One record alone needs no tally, and a truth that is missing or strange is none of a class.
  const std::string odd = glazes.folder.file(
      "odd.csv",
      "iron,lightness,thickness,gloss,peak,glaze\n1,84,1.5,43,1216,\n1,84,1.5,43,1216,=1+1\n");
  const Answer strange = lattice({"ask", model, "--file", odd});
  EXPECT_THAT(strange.out, AllOf(HasSubstr("=1+1"), HasSubstr("right: 0 of 1")));
}

TEST(ask, tells_how_far_numbers_are_off) {
  const Folder folder;
  const std::string model = folder.path() / "k.lattice";
  ASSERT_EQ(lattice({"train", "kiln", "--epochs", "0", "--save", model}).status, 0);
  const std::string rows = folder.file("k.csv", "minutes,temperature\n1,100\n2,?\n");
  EXPECT_THAT(lattice({"ask", model, "--file", rows}).out,
              AllOf(HasSubstr("truth"), HasSubstr("off by")));
  const Json json = json_of(lattice({"ask", model, "--file", rows, "--json"}));
  EXPECT_EQ(json["answers"][0]["truth"]["temperature"], 100);
  EXPECT_TRUE(json["answers"][1]["truth"]["temperature"].is_null());
}

TEST(no_epochs, judge_save_and_draw_the_untrained_network) {
  const Folder folder;
  const std::string model = folder.path() / "m.lattice";
  const Answer answer = lattice({"train", "cracks", "--epochs", "0", "--save", model});
  EXPECT_EQ(answer.status, 0);
  EXPECT_THAT(answer.err,
              AllOf(HasSubstr("the network is as it starts"), Not(HasSubstr("no-validation"))));
  EXPECT_THAT(answer.out, AllOf(HasSubstr("Initial weights"), Not(HasSubstr("Learnt"))));
  const Json assessed = json_of(lattice({"assess", model, "--json"}))["parts"];
  const Json first =
      json_of(lattice({"train", "cracks", "--epochs", "1", "--json"}))["run"]["epochs"][0];
  EXPECT_EQ(assessed["train"]["loss"], first["train"]["loss"]);
  EXPECT_EQ(lattice({"draw", "regions", model, "--out", folder.path() / "r.svg"}).status, 0);
  EXPECT_THAT(lattice({"work", "cracks", "--epochs", "0"}).err,
              HasSubstr("a run of one epoch or more"));
  // Going on from there is the run from its start.
  const Json resumed = json_of(lattice({"train", "--resume", model, "--epochs", "2", "--json"}));
  const Json whole = json_of(lattice({"train", "cracks", "--epochs", "2", "--json"}));
  EXPECT_EQ(resumed["parts"], whole["parts"]);
}

TEST(pictures, come_from_a_file_for_each_class_and_are_judged_class_by_class) {
  const Folder folder;
  const Dataset stamps = demo_set("stamps", 60, 1);
  std::map<std::string, std::vector<std::int64_t>> rows;
  for (std::int64_t row = 0; row < stamps.rows(); ++row)
    rows[stamps.class_name(static_cast<std::int64_t>(stamps.classes.at_offset(row)))].push_back(
        row);
  Words files;
  for (const auto& [name, of_class] : rows) {
    const std::string path = folder.path() / (name + ".idx.gz");
    const Examples grid = stamps.features.taking(of_class);
    const Shape& shape = grid.shape();
    std::ofstream(path, std::ios::binary)
        << gzipped(to_idx(grid.reshaped({shape[0], shape[1], shape[2]})));
    files.insert(files.end(), {"--file", name + "=" + path});
  }
  const std::string model = folder.path() / "m.lattice";
  const Answer answer = lattice(
      with(with({"train", "--epochs", "1", "--save", model}, files),
           {"--test-file", files[1], "--net", fmt::format("flatten, dense {}", rows.size())}));
  EXPECT_EQ(answer.status, 0) << answer.err;
  EXPECT_THAT(answer.out, HasSubstr(fmt::format("{} test from ", rows.begin()->second.size())));
  const Answer one = lattice({"assess", model, "--file", files[1]});
  EXPECT_THAT(one.out, HasSubstr("–"));
  EXPECT_THAT(lattice({"assess", model, "--file", "vase=" + folder.path().string()}).err,
              HasSubstr("no pictures for the class 'vase'"));
  EXPECT_THAT(
      lattice({"draw", "samples", model, "--file", files[1], "--out", folder.path() / "s.svg"}).out,
      HasSubstr("s.svg"));
  EXPECT_THAT(lattice({"data", "--file", files[1], "--labels", files[1]}).err,
              HasSubstr("more files of labels"));
  EXPECT_THAT(lattice(with({"data", "--test-labels", "l.idx"}, files)).err,
              HasSubstr("--test-labels needs a file"));
  const std::string table = folder.file("t.csv", "a,b\n1,2\n");
  EXPECT_THAT(lattice({"assess", model, "--file", table}).err,
              AllOf(HasSubstr("not assessed on a table"), HasSubstr("pictures")));
  EXPECT_THAT(lattice({"data", "--file", "bowl=" + table}).err,
              HasSubstr("a class for a file that is a table"));
  const std::string wide = folder.path() / "wide.idx";
  std::ofstream(wide, std::ios::binary)
      << to_idx(Examples::of_bytes({1, 12, 13}, std::vector<std::uint8_t>(156)));
  EXPECT_THAT(lattice(with({"data", "--test-file", rows.begin()->first + "=" + wide}, files)).err,
              AllOf(HasSubstr("the test part are not like the others"),
                    HasSubstr("--resize 12x12 brings all to one size")));
}

TEST(test_file, adds_nodes_to_a_graph) {
  const Folder folder;
  const std::string nodes =
      folder.file("nodes.csv", "name,size,guild\nAda,1,hill\nBo,2,river\nCy,3,hill\nDi,4,river\n");
  const std::string more = folder.file("more.csv", "name,size,guild\nEd,5,hill\nFi,6,river\n");
  const std::string edges = folder.file("edges.csv", "a,b\nAda,Bo\nBo,Cy\nCy,Di\nDi,Ed\nEd,Fi\n");
  const Answer answer = lattice({"train", "--file", nodes, "--test-file", more, "--edges", edges,
                                 "--target", "guild", "--validation", "0", "--epochs", "2"});
  EXPECT_EQ(answer.status, 0) << answer.err;
  EXPECT_THAT(answer.out, HasSubstr("nodes: 4 train, 2 test from more.csv"));
  const std::string again = folder.file("again.csv", "name,size,guild\nAda,5,hill\n");
  EXPECT_EQ(lattice({"train", "--file", nodes, "--test-file", again, "--edges", edges, "--target",
                     "guild", "--epochs", "2"})
                .status,
            2);
}

TEST(data, are_drawn_before_there_is_a_network) {
  const Glazes glazes;
  const auto drawn = [&](const Words& more) {
    const std::string path = glazes.folder.path() / "d.svg";
    std::filesystem::remove(path);
    const Answer answer = lattice(with({"data", "--draw", path}, more));
    EXPECT_EQ(answer.status, 0) << answer.err;
    EXPECT_THAT(answer.out, HasSubstr("d.svg"));
    return content_of(path);
  };
  EXPECT_THAT(drawn({"glazes"}),
              AllOf(HasSubstr("glazes: 2000 rows"), HasSubstr("tenmoku"), HasSubstr("iron")));
  EXPECT_THAT(drawn({"glazes", "--axes", "gloss,peak"}),
              AllOf(HasSubstr("gloss"), HasSubstr("peak (°C)")));
  EXPECT_THAT(drawn({"kiln"}), HasSubstr("temperature (°C)"));
  EXPECT_THAT(drawn({"glazes", "--as", "histograms"}),
              AllOf(HasSubstr("thickness"), HasSubstr("rows")));
  EXPECT_THAT(drawn({"shrinkage", "--as", "correlations"}),
              AllOf(HasSubstr("shrinkage"), HasSubstr("1.00")));
  EXPECT_THAT(drawn({"stamps", "--rows", "100"}),
              AllOf(HasSubstr("anchor"), HasSubstr("stamps: 100 rows")));
  EXPECT_THAT(drawn({"stamps", "--rows", "100", "--augment", "shift 3", "--minibatch", "2"}),
              HasSubstr("minibatch of step 2, epoch 1"));
  EXPECT_NE(drawn({"stamps", "--rows", "100", "--augment", "shift 3", "--minibatch", "2"}),
            drawn({"stamps", "--rows", "100", "--minibatch", "2"}));
  EXPECT_THAT(drawn({"--file", glazes.may, "--target", "glaze", "--minibatch", "1"}),
              HasSubstr("may.csv: minibatch of step 1"));
  const Json json =
      json_of(lattice({"data", "glazes", "--draw", glazes.folder.path() / "j.png", "--json"}));
  EXPECT_EQ(json["written_to"][0], (glazes.folder.path() / "j.png").string());

  const auto refused = [&](const Words& more) {
    const Answer answer = lattice(with({"data", "--draw", glazes.folder.path() / "d.svg"}, more));
    EXPECT_EQ(answer.status, 2);
    return answer.err;
  };
  EXPECT_THAT(refused({"glazes", "--axes", "gloss,glaze"}),
              HasSubstr("no column of numbers 'glaze'"));
  EXPECT_THAT(refused({"glazes", "--axes", "gloss"}), HasSubstr("two columns"));
  EXPECT_THAT(refused({"glazes", "--as", "pictures"}), HasSubstr("no pictures"));
  EXPECT_THAT(refused({"stamps", "--as", "points"}), HasSubstr("no features to draw"));
  EXPECT_THAT(refused({"glazes", "--minibatch", "100000"}), HasSubstr("the run has no step"));
  EXPECT_THAT(refused({}), HasSubstr("--draw draws one set"));
}

TEST(data, with_hostile_names_are_drawn_and_run_nothing) {
  const Folder folder;
  std::string rows =
      "a,\""
      "`$(touch x)`\\\"\"'%&<"
      "\",kind\n";
  for (int row = 0; row < 12; ++row)
    rows += fmt::format("{},{},{}\n", row, row * row,
                        row % 2 == 0 ? "\"=1+1\"" : "'; system 'touch x' #");
  const std::string file = folder.file("bad.csv", rows);
  for (const char* const as : {"points", "histograms", "correlations"}) {
    const std::string path = folder.path() / "d.svg";
    const Answer answer =
        lattice({"data", "--file", file, "--target", "kind", "--draw", path, "--as", as});
    EXPECT_EQ(answer.status, 0) << answer.err;
    EXPECT_THAT(content_of(path), HasSubstr("touch x"));
  }
  EXPECT_FALSE(std::filesystem::exists("x"));
  EXPECT_FALSE(std::filesystem::exists(folder.path() / "x"));
}

}  // namespace
}  // namespace lattice::testing
