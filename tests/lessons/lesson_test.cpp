#include "lattice/lessons/lesson.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <filesystem>

#include "lattice/lattice.hpp"
#include "lattice/lessons/prepare.hpp"
#include "support/process.hpp"
#include "support/said.hpp"

namespace lattice {
namespace {

using ::testing::AllOf;
using ::testing::ElementsAre;
using ::testing::HasSubstr;

std::string lesson_trouble(const std::string& text) {
  return testing::said([&] { return parse_lesson(text, "l.toml"); });
}

TEST(lesson, is_read_section_by_section) {
  const Lesson lesson = parse_lesson(R"(
title = "Pots"
seed = 7
quiet = ["went-on"]
[data]
file = "pots.csv"
target = "kind"
features = ["wall", 3]
task = "classes"
missing = "drop"
separator = "semicolon"
header = false
scale = "min-max"
[split]
train = 0.5
stratified = true
[network]
net = "dense 4, tanh, dense 3"
start = ["he", "output.bias=0,0,1"]
precision = "single"
[training]
rule = "momentum"
rate = 1
momentum = 0.8
epochs = 5
schedule = "steps 2 0.5"
loss = "cross-entropy"
patience = 3
)",
                                     "l.toml");
  EXPECT_EQ(lesson.seed, 7U);
  EXPECT_THAT(lesson.data.files, ::testing::ElementsAre("pots.csv"));
  EXPECT_THAT(lesson.data.columns.features, ElementsAre("wall", "3"));
  EXPECT_EQ(lesson.data.columns.missing, Missing::dropped);
  EXPECT_EQ(lesson.data.csv.separator, ';');
  EXPECT_EQ(lesson.data.csv.header, false);
  EXPECT_EQ(lesson.data.scale, (std::vector<ScalingSettings>{{.kind = ScalingKind::min_max}}));
  EXPECT_EQ(lesson.split_in_force().train, 0.5);
  EXPECT_EQ(lesson.network.start.size(), 2U);
  EXPECT_EQ(lesson.network.precision, Precision::single);
  EXPECT_EQ(rule_of(lesson).rate(), 1.0);
  EXPECT_EQ(rule_of(lesson).settings()[1], RuleSetting("momentum", 0.8));
  EXPECT_EQ(lesson.training.schedule, Schedule::steps(2, 0.5));
  EXPECT_EQ(lesson.training.patience, 3);
  EXPECT_EQ(to_json(lesson_from_json(to_json(lesson))), to_json(lesson));
}

TEST(lesson, has_one_file_or_several_and_one_target_or_several) {
  const Lesson lesson = parse_lesson(
      "[data]\nfile = [\"a.csv\", \"b.csv\"]\ntarget = [\"height\", 2]\nrows = 50\n", "l");
  EXPECT_THAT(lesson.data.files, ElementsAre("a.csv", "b.csv"));
  EXPECT_THAT(lesson.data.columns.targets, ElementsAre("height", "2"));
  EXPECT_EQ(to_json(lesson)["data"]["file"], Json({"a.csv", "b.csv"}));
  EXPECT_EQ(to_json(lesson_from_json(to_json(lesson))), to_json(lesson));
  EXPECT_EQ(to_json(parse_lesson("[data]\nfile = \"a.csv\"\n", "l"))["data"]["file"], "a.csv");
  EXPECT_THAT(parse_lesson("[data]\ntarget = 3\n", "l").data.columns.targets, ElementsAre("3"));
  EXPECT_EQ(parse_lesson("[data]\nset_seed = 4\n", "l").data.set_seed, 4U);
}

TEST(lesson, has_files_for_its_parts_and_for_classes) {
  const testing::Folder folder;
  const Lesson lesson = read_lesson(
      folder.file("l.toml",
                  "[data]\nfile = [\"bowl=bowls.idx\", \"./a=b.csv\"]\n"
                  "[split]\ntest_file = \"june.csv\"\nvalidation_file = [\"may.csv\"]\n"));
  const std::string in = folder.path().string() + "/";
  EXPECT_THAT(lesson.data.files, ElementsAre("bowl=" + in + "bowls.idx", in + "./a=b.csv"));
  EXPECT_THAT(lesson.data.test_files, ElementsAre(in + "june.csv"));
  EXPECT_THAT(lesson.data.files_of(DataPart::validation), ElementsAre(in + "may.csv"));
  EXPECT_THAT(files_read_by(lesson),
              ElementsAre(in + "bowls.idx", in + "./a=b.csv", in + "may.csv", in + "june.csv"));
  EXPECT_EQ(to_json(lesson_from_json(to_json(lesson))), to_json(lesson));
  EXPECT_EQ(FileOfClass::in("bowl=a=b.idx").path, "a=b.idx");
  EXPECT_EQ(FileOfClass::in("=a.idx").path, "=a.idx");
  EXPECT_EQ(FileOfClass::in("in/bowl=a.idx").class_name, "");
}

TEST(lesson, fills_in_the_shares_that_are_left_out) {
  using ::testing::DoubleNear;
  using ::testing::ElementsAre;
  const auto shares = [](const std::string& text) {
    const Lesson lesson = parse_lesson(text.empty() ? "" : "[split]\n" + text, "");
    const SplitSettings full = in_full(demo_set("kiln", 100, 1), lesson.split_in_force());
    return std::vector{*full.train, *full.validation, *full.test};
  };
  const auto are = [](double train, double validation, double test) {
    return ElementsAre(DoubleNear(train, 1e-15), DoubleNear(validation, 1e-15),
                       DoubleNear(test, 1e-15));
  };
  EXPECT_THAT(shares(""), are(0.6, 0.2, 0.2));
  EXPECT_THAT(shares("test = 0"), are(0.8, 0.2, 0));
  EXPECT_THAT(shares("train = 0.8"), are(0.8, 0.1, 0.1));
  EXPECT_THAT(shares("train = 1.0"), are(1, 0, 0));
  EXPECT_THAT(shares("train = 0.5\ntest = 0.1"), are(0.5, 0.4, 0.1));
  EXPECT_THAT(shares("train = 0.5\nvalidation = 0"), are(0.5, 0, 0.5));
  EXPECT_THAT(shares("train = 0.5\nvalidation = 0.1\ntest = 0.1"), are(0.5, 0.1, 0.1));
  EXPECT_THAT(shares("train = 50\nvalidation = 0.1"), are(50, 0.1, 40));
  EXPECT_EQ(to_json(parse_lesson("[split]\ntrain = 50\n", ""))["split"]["train"], 50);
}

TEST(lesson, says_line_and_column_of_what_it_cannot_use) {
  struct Refused {
    const char* text;
    const char* because;
    const char* where;
  };
  for (const Refused& refusal : std::vector<Refused>{
           {"[training]\nepocs = 3\n", "did you mean epochs?", "l.toml, line 2, column 1"},
           {"[training]\nnet = \"dense 3\"\n", "net in [network]", "line 2"},
           {"[trainig]\nepochs = 3\n", "did you mean [training]?", "line 1"},
           {"sed = 1\n", "did you mean seed?", "line 1, column 1"},
           {"[training]\nepochs = \"many\"\n", "a whole number", "line 2, column 10"},
           {"[training]\nepochs = -1\n", "0 or more", "line 2, column 10"},
           {"[training]\nepochs = 2.5\n", "a whole number", "line 2"},
           {"[training]\nrate = -0.1\n", "a number above 0", "line 2, column 8"},
           {"[training]\nrate = true\n", "a number above 0", "line 2"},
           {"[training]\nrule = \"adm\"\n", "did you mean adam?", "line 2"},
           {"[training]\nschedule = \"weekly\"\n", "steps EPOCHS FACTOR", "line 2"},
           {"[network]\nnet = \"dense 8, tahn\"\n", "did you mean tanh?", "»tahn«"},
           {"[network]\nnet = \"dense 0\"\n", "cannot have 0 units", "line 2, column 7"},
           {"[data]\nscale = \"standart\"\n", "did you mean standard?", "line 2"},
           {"[data]\nheader = \"yes\"\n", "true or false", "line 2"},
           {"[data]\nfeatures = [1.5]\n", "a text in quotes", "line 2"},
           {"[data]\ntarget = 1979-05-27\n", "this value cannot be used", "line 2"},
           {"[split]\ntest = 1.5\n", "a share from 0 to 1", "line 2, column 8"},
           {"[training\nrate = 1\n", "l.toml is not TOML", "line 1"},
           {"rate 1\n", "l.toml is not TOML", "line 1"},
           {"seed = 1\nseed = 2\n", "l.toml is not TOML", "line 2"}}) {
    EXPECT_THAT(lesson_trouble(refusal.text),
                AllOf(HasSubstr(refusal.because), HasSubstr(refusal.where)))
        << refusal.text;
  }
}

TEST(lesson, is_written_with_a_comment_on_every_setting_and_reads_back) {
  Lesson lesson;
  lesson.data.set = "glazes";
  lesson.network.blueprint = "dense 8, tanh, dense 4";
  lesson.rule = "adam";
  lesson.rule_settings["beta_1"] = 0.8;
  lesson.quiet = {"first-loss", "went-on"};
  const std::string text = to_toml(lesson, prepare(lesson).in_full());
  EXPECT_EQ(to_json(parse_lesson(text, "")), to_json(lesson));
  for (const LessonSetting& setting : lesson_settings())
    EXPECT_THAT(text, HasSubstr("# " + setting.sentence + ".\n")) << setting.key;
  EXPECT_THAT(text, AllOf(HasSubstr("\nbeta_1 = 0.8\n"), HasSubstr("\n# beta_2 = 0.999\n"),
                          HasSubstr("\n# epsilon = 1e-08\n"), HasSubstr("\n# rate = 0.001\n"),
                          HasSubstr("\n# train = 0.6\n"), HasSubstr("\n# patience = \"none\"\n"),
                          Not(HasSubstr("momentum = "))));
}

TEST(lesson, shows_what_is_in_force_so_that_taking_in_any_line_changes_nothing) {
  const std::string file = LATTICE_SOURCE "/demo/data/cracks.csv";
  for (const std::string& lesson_text :
       {std::string("[data]\nset = \"kiln\"\n"),
        std::string("[data]\nset = \"glazes\"\nrows = 90\n[training]\nrule = \"rms\"\n"),
        std::string("[data]\nset = \"shrinkage\"\nscale = \"none\"\n[split]\ntrain = 0.9\n"
                    "[training]\nrule = \"momentum\"\n"),
        "[data]\nfile = \"" + file + "\"\ntarget = \"state\"\n[network]\nnet = \"dense 1\"\n"}) {
    const Lesson lesson = parse_lesson(lesson_text, "");
    const Prepared prepared = prepare(lesson);
    const std::string text = to_toml(lesson, prepared.in_full());
    EXPECT_EQ(to_json(parse_lesson(text, "")), to_json(lesson));
    int taken_in = 0;
    for (std::size_t at = 0; (at = text.find("\n# ", at)) != std::string::npos; ++at) {
      const std::string line = text.substr(at + 3, text.find('\n', at + 1) - at - 3);
      if (line.find(" = ") == std::string::npos || line.back() == '.') continue;
      std::string more = text;
      more.erase(at + 1, 2);
      const Prepared other = prepare(parse_lesson(more, ""));
      EXPECT_EQ(to_json(other.in_full()), to_json(prepared.in_full())) << line;
      EXPECT_EQ(fingerprint(other.data()), fingerprint(prepared.data())) << line;
      EXPECT_EQ(other.split.test.rows(), prepared.split.test.rows()) << line;
      EXPECT_EQ(other.work(1).loss_after(), prepared.work(1).loss_after()) << line;
      ++taken_in;
    }
    EXPECT_GT(taken_in, 10) << lesson_text;
  }
}

TEST(lessons, of_the_demo_folder_can_all_be_made_ready) {
  int count = 0;
  for (const auto& entry : std::filesystem::directory_iterator(LATTICE_SOURCE "/demo/lessons")) {
    const Prepared prepared = prepare(read_lesson(entry.path()));
    EXPECT_FALSE(prepared.split.train.features().empty());
    ++count;
  }
  EXPECT_GE(count, 4);
}

TEST(prepare, makes_the_same_numbers_of_the_same_lesson) {
  const Lesson lesson = parse_lesson(
      "[data]\nset = \"cracks\"\nrows = 90\n[network]\nnet = \"dense 3, tanh, dense 1\"\n", "");
  const Prepared one = prepare(lesson);
  const Prepared other = prepare(lesson);
  EXPECT_EQ(one.split.train.features(), other.split.train.features());
  EXPECT_EQ(one.network["hidden.weight"], other.network["hidden.weight"]);
  EXPECT_EQ(fingerprint(one.data()), fingerprint(other.data()));
  Lesson another = lesson;
  another.seed = 2;
  EXPECT_FALSE(prepare(another).network["hidden.weight"] == one.network["hidden.weight"]);
  EXPECT_EQ(fingerprint(prepare(another).data()), fingerprint(one.data()));
}

TEST(fingerprint, tells_features_classes_and_targets_apart_to_the_last_bit) {
  Dataset cracks = demo_set("cracks", 30, 1);
  Dataset kiln = demo_set("kiln", 30, 1);
  const std::uint64_t of_cracks = fingerprint(cracks);
  const std::uint64_t of_kiln = fingerprint(kiln);
  cracks.classes.set({29}, 1.0 - cracks.classes.at({29}));
  EXPECT_NE(fingerprint(cracks), of_cracks);
  kiln.targets.set({29, 0}, std::nextafter(kiln.targets.at({29, 0}), 1e9));
  EXPECT_NE(fingerprint(kiln), of_kiln);
  Dataset features = demo_set("kiln", 30, 1);
  features.features.set({0, 0}, features.features.at({0, 0}) + 1e-9);
  EXPECT_NE(fingerprint(features), of_kiln);
}

TEST(prepare, sets_starts_for_all_weights_or_for_one) {
  Lesson lesson;
  lesson.data.set = "cracks";
  lesson.data.rows = 60;
  lesson.network.blueprint = "dense 2, tanh, dense 1";
  lesson.network.start = {"constant 0.5", "output.weight=1,2"};
  const Prepared prepared = prepare(lesson);
  EXPECT_EQ(prepared.network["hidden.weight"], constant({2, 2}, 0.5));
  EXPECT_EQ(prepared.network["output.weight"], tensor({{1}, {2}}));
  EXPECT_EQ(prepared.network["hidden.bias"], zeros({2}));
}

}  // namespace
}  // namespace lattice
