#include <fmt/format.h>
#include <gmock/gmock.h>
#include <gtest/gtest.h>
#include <signal.h>
#include <sys/wait.h>
#include <unistd.h>

#include <chrono>
#include <cmath>
#include <csignal>
#include <filesystem>
#include <thread>

#include "lattice/files/csv.hpp"
#include "support/learning.hpp"

/// The verbs that take a table to a judged, saved and comparable network.
namespace lattice::testing {
namespace {

using ::testing::AllOf;
using ::testing::HasSubstr;
using ::testing::IsEmpty;
using ::testing::Not;

TEST(train, takes_a_table_never_seen_to_a_judged_model) {
  const Folder folder;
  const std::string table = folder.file("t.csv", made_up_table(400));
  const std::string model = folder.path() / "m.lattice";
  const Json run = json_of(lattice(
      {"train",  "--file", table,    "--target", "kind",     "--net", "dense 12, relu, dense 5",
       "--rule", "adam",   "--rate", "0.01",     "--epochs", "60",    "--batch",
       "16",     "--seed", "1",      "--save",   model,      "--json"}));
  std::int64_t rows = 0;
  for (const char* part : {"train", "validation", "test"}) {
    const Json& figures = run["parts"][part];
    rows += figures["rows"].get<std::int64_t>();
    EXPECT_GT(figures["accuracy"], 0.9) << part;
    EXPECT_LT(figures["loss"], std::log(5.0)) << part;
    EXPECT_NEAR(figures["uniform_guess"]["loss"], std::log(5.0), 1e-12);
  }
  EXPECT_EQ(rows, 400);
  EXPECT_EQ(run["run"]["epochs"].size(), 61U);
  EXPECT_EQ(run["settings"]["training"]["rule"], "adam");

  // Every row again, as new records: the answers are as good as the judgement said.
  const Json answers = json_of(lattice({"ask", model, "--file", table, "--json"}))["answers"];
  ASSERT_EQ(answers.size(), 400U);
  int right = 0;
  const std::vector<std::string> kinds = {"bowl", "jug", "vase", "plate", "cup"};
  for (std::size_t row = 0; row < answers.size(); ++row)
    right += answers[row]["kind"] == kinds[row % 5] ? 1 : 0;
  EXPECT_GT(right, 360);
}

TEST(train, judges_numbers_by_mean_square_and_r_squared) {
  const Json run = json_of(lattice(
      {"train", "shrinkage", "--rule", "adam", "--rate", "0.05", "--epochs", "60", "--json"}));
  for (const char* part : {"train", "validation", "test"}) {
    EXPECT_GT(run["parts"][part]["targets"]["shrinkage"]["r_squared"], 0.9) << part;
    EXPECT_LT(run["parts"][part]["targets"]["shrinkage"]["mean_squared"], 0.2) << part;
    EXPECT_FALSE(run["parts"][part].contains("accuracy"));
  }
}

TEST(train, is_the_same_run_for_the_same_seed_and_says_so) {
  const Words words = with(glazes, {"--epochs", "2", "--seed", "7", "--json"});
  Json one = json_of(lattice(words));
  Json other = json_of(lattice(words));
  EXPECT_EQ(one["settings"]["seed"], 7);
  EXPECT_EQ(one["parts"], other["parts"]);
  for (std::size_t epoch = 0; epoch < 3; ++epoch)
    EXPECT_EQ(one["run"]["epochs"][epoch]["train"], other["run"]["epochs"][epoch]["train"]);
}

TEST(train, goes_on_from_a_model_file_as_if_it_had_never_stopped) {
  const Folder folder;
  const std::string half = folder.path() / "half.lattice";
  const std::string whole = folder.path() / "whole.lattice";
  for (const Words& more :
       {Words{}, Words{"--compact"}, Words{"--schedule", "stall 1 0.5", "--patience", "4"},
        Words{"--precision", "single", "--clip-norm", "1", "--l2", "0.001"}}) {
    ASSERT_EQ(lattice(with(with(glazes, more), {"--epochs", "10", "--save", half})).status, 0);
    const Answer on =
        lattice({"train", "--resume", half, "--epochs", "10", "--save", half, "--json"});
    ASSERT_EQ(lattice(with(with(glazes, more), {"--epochs", "20", "--save", whole})).status, 0);
    const Json resumed = json_of(lattice({"assess", half, "--json"}));
    const Json at_once = json_of(lattice({"assess", whole, "--json"}));
    EXPECT_EQ(resumed["parts"], at_once["parts"]);
    const Json run = json_of(on)["run"];
    EXPECT_EQ(run["joins"].size(), 1U);
    EXPECT_THAT(on.out, HasSubstr("went-on"));
  }
}

TEST(train, refuses_to_go_on_with_other_settings_or_other_rows) {
  const Folder folder;
  const std::string table = folder.file("t.csv", made_up_table(100));
  const std::string model = folder.path() / "m.lattice";
  ASSERT_EQ(
      lattice({"train", "--file", table, "--target", "kind", "--epochs", "1", "--save", model})
          .status,
      0);
  EXPECT_THAT(lattice({"train", "--resume", model, "--rate", "0.5"}).err,
              HasSubstr("a resumed run keeps its rate"));
  EXPECT_THAT(lattice({"train", "--resume", model, "--missing", "drop"}).err,
              HasSubstr("keeps its missing"));
  EXPECT_THAT(lattice({"train", "glazes", "--resume", model}).err,
              HasSubstr("has its lesson in the model file"));
  static_cast<void>(folder.file("t.csv", made_up_table(101)));
  for (const Words& words : {Words{"train", "--resume", model}, Words{"assess", model}}) {
    const Answer answer = lattice(words);
    EXPECT_EQ(answer.status, 2);
    EXPECT_THAT(answer.err, HasSubstr("with other numbers"));
  }
}

TEST(train, says_as_much_as_it_is_told_to) {
  const Words words = with(glazes, {"--epochs", "40"});
  EXPECT_THAT(lattice(with(words, {"--say", "nothing", "--quiet", "all"})).err, IsEmpty());
  const std::string some = lattice(words).err;
  EXPECT_THAT(some, AllOf(HasSubstr("epoch 2 of 40"), Not(HasSubstr("epoch 3 of 40"))));
  const std::string much = lattice(with(words, {"--say", "much", "--steps-every", "100"})).err;
  EXPECT_THAT(much, AllOf(HasSubstr("epoch 3 of 40"), HasSubstr("step 100, epoch 9")));
  EXPECT_THAT(lattice(with(words, {"--say", "more"})).err, HasSubstr("nothing, some or much"));
}

TEST(train, answers_no_when_the_loss_is_no_longer_a_number_and_keeps_the_best_weights) {
  const Folder folder;
  const std::string model = folder.path() / "m.lattice";
  const Answer answer =
      lattice({"train", "shrinkage", "--scale", "none", "--rate", "0.1", "--save", model});
  EXPECT_EQ(answer.status, 1);
  EXPECT_THAT(answer.err, HasSubstr("a smaller rate than 0.1"));
  EXPECT_THAT(answer.err, HasSubstr("step "));
  EXPECT_THAT(answer.err, HasSubstr("rate-too-high"));
  EXPECT_THAT(answer.err, HasSubstr("features-differ"));
  EXPECT_THAT(answer.out, HasSubstr("the weights are those of epoch 0"));
  EXPECT_EQ(lattice({"assess", model}).status, 0);
  EXPECT_THAT(lattice({"train", "--resume", model}).err, HasSubstr("cannot resume the run"));
}

/// Starts the command without waiting for it; what it says goes to a file.
pid_t start(const Words& words, const std::string& err = "/dev/null") {
  const pid_t child = fork();
  if (child == 0) {
    std::signal(SIGINT, SIG_DFL);  // What runs in the background ignores it, and hands that down.
    std::vector<char*> arguments = {const_cast<char*>(LATTICE_PROGRAM)};
    for (const std::string& word : words)
      arguments.push_back(const_cast<char*>(word.c_str()));
    arguments.push_back(nullptr);
    if (std::freopen("/dev/null", "w", stdout) == nullptr ||
        std::freopen(err.c_str(), "w", stderr) == nullptr)
      _exit(127);
    execv(LATTICE_PROGRAM, arguments.data());
    _exit(127);
  }
  return child;
}

int wait_for(pid_t child) {
  int status = 0;
  waitpid(child, &status, 0);
  return status;
}

TEST(train, ends_cleanly_on_ctrl_c_and_keeps_what_was_learnt) {
  const Folder folder;
  const std::string model = folder.path() / "m.lattice";
  const std::string said = folder.path() / "said";
  const pid_t child =
      start(with(glazes, {"--epochs", "1000000", "--judge-every", "1000", "--save", model}), said);
  // From its first word on it trains.
  for (int wait = 0;
       wait < 600 && (!std::filesystem::exists(said) || std::filesystem::file_size(said) == 0);
       ++wait)
    std::this_thread::sleep_for(std::chrono::milliseconds(50));
  std::this_thread::sleep_for(std::chrono::milliseconds(500));
  kill(child, SIGINT);
  const int status = wait_for(child);
  ASSERT_TRUE(WIFEXITED(status));
  EXPECT_EQ(WEXITSTATUS(status), 0);
  const Json saved = Json::parse(content_of(model));
  EXPECT_EQ(saved["run"]["ending"], "asked");
  EXPECT_GT(saved["run"]["updates"], 100);
}

/// The files of a folder but for one.
std::vector<std::filesystem::path> others_in(const Folder& folder,
                                             const std::filesystem::path& file) {
  std::vector<std::filesystem::path> others;
  for (const auto& entry : std::filesystem::directory_iterator(folder.path())) {
    if (entry.path() != file) others.push_back(entry.path());
  }
  return others;
}

// Killed at any moment, and on purpose at those when a half-written file stands beside the old one.
TEST(saving, leaves_the_old_file_or_the_new_one_whole_whenever_it_is_killed) {
  const Folder folder;
  const std::string model = folder.path() / "m.lattice";
  const Words words = {"train",    "glazes", "--rows", "60",
                       "--epochs", "1",      "--net",  "dense 100, tanh, dense 100, tanh, dense 4",
                       "--save",   model};
  const auto begin = std::chrono::steady_clock::now();
  ASSERT_EQ(lattice(words).status, 0);
  const std::chrono::duration<double> whole_run = std::chrono::steady_clock::now() - begin;
  std::mt19937 random(3);
  std::uniform_real_distribution<double> moment(0.2, 1.1);
  int killed = 0;
  int killed_while_writing = 0;
  for (int attempt = 0; attempt < 30; ++attempt) {
    const pid_t child = start(with(words, {"--seed", std::to_string(attempt + 2)}));
    if (attempt % 3 == 0) {
      std::this_thread::sleep_for(whole_run * moment(random));
    } else {
      const auto end = std::chrono::steady_clock::now() + 5 * whole_run;
      while (others_in(folder, model).empty() && std::chrono::steady_clock::now() < end)
        std::this_thread::yield();
    }
    kill(child, SIGKILL);
    killed += WIFSIGNALED(wait_for(child)) ? 1 : 0;
    for (const std::filesystem::path& half : others_in(folder, model)) {
      ++killed_while_writing;
      std::filesystem::remove(half);
    }
    ASSERT_EQ(
        lattice({"ask", model, "--record", "iron=1,lightness=80,thickness=1,gloss=30,peak=1220"})
            .status,
        0)
        << attempt;
  }
  EXPECT_GT(killed, 10);
  EXPECT_GT(killed_while_writing, 5);
}

TEST(saving, reports_a_place_that_cannot_be_written_to) {
  const Answer answer = lattice(with(glazes, {"--epochs", "1", "--save", "/no/such/m.lattice"}));
  EXPECT_EQ(answer.status, 2);
  EXPECT_THAT(answer.err, HasSubstr("cannot write /no/such/m.lattice"));
}

TEST(model_files, that_cannot_be_used_are_refused_with_a_word_that_teaches) {
  const Folder folder;
  const std::string model = folder.path() / "m.lattice";
  ASSERT_EQ(lattice(with(glazes, {"--epochs", "1", "--save", model})).status, 0);
  const std::string good = content_of(model);
  const auto refused = [&](const std::string& content) {
    const Answer answer = lattice({"assess", folder.file("bad.lattice", content)});
    EXPECT_EQ(answer.status, 2);
    EXPECT_THAT(answer.out, IsEmpty());
    return answer.err;
  };
  const auto changed = [&](const std::function<void(Json&)>& change) {
    Json json = Json::parse(good);
    change(json);
    return refused(json.dump());
  };
  EXPECT_THAT(refused(good.substr(0, good.size() / 2)), HasSubstr("is not a whole model file"));
  EXPECT_THAT(refused(""), HasSubstr("an empty file"));
  EXPECT_THAT(refused("[1,2]"), HasSubstr("is not a whole model file"));
  EXPECT_THAT(changed([](Json& json) { json["version"] = 99; }),
              HasSubstr("written by a newer version"));
  EXPECT_THAT(changed([](Json& json) {
                json["network"]["weights"]["output.bias"] = {1, 2};
              }),
              AllOf(HasSubstr("network.weights.output.bias"), HasSubstr("[unit 4]")));
  EXPECT_THAT(changed([](Json& json) { json["network"]["weights"].erase("output.bias"); }),
              HasSubstr("4 weights"));
  EXPECT_THAT(changed([](Json& json) { json["network"]["weights"]["output.bias"][1] = "x"; }),
              HasSubstr("numbers of the shape"));
  EXPECT_THAT(changed([](Json& json) { json["network"]["blueprint"] = "dense 8, tahn"; }),
              HasSubstr("tahn"));
  EXPECT_THAT(changed([](Json& json) { json.erase("columns"); }), HasSubstr("'columns'"));
  EXPECT_THAT(changed([](Json& json) { json["columns"].erase(0); }),
              HasSubstr("columns that make 5 features"));
  EXPECT_THAT(changed([](Json& json) { json["format"] = "soup"; }), HasSubstr("soup"));
  EXPECT_THAT(lattice({"assess", "/no/such/model"}).err, HasSubstr("cannot read"));
  EXPECT_THAT(lattice({"train", "--resume", folder.path()}).err, HasSubstr("a folder"));
}

TEST(train, is_as_long_as_so_many_updates_and_looks_between_steps) {
  const Folder folder;
  const std::string csv = (folder.path() / "run.csv").string();
  const std::string model = (folder.path() / "m.lattice").string();
  const Answer answer = lattice({"train", "cracks", "--rows", "300", "--updates", "30",
                                 "--judge-every", "10 steps", "--csv", csv, "--save", model});
  EXPECT_THAT(answer.err,
              AllOf(HasSubstr("step 10, epoch 1: minibatch loss "), HasSubstr("; validation loss "),
                    HasSubstr("written: " + csv), HasSubstr("epoch 3 of 3")));
  EXPECT_THAT(answer.out, HasSubstr("minibatch loss  accuracy  running loss  accuracy  validation "
                                    "loss  accuracy"));
  const Table table = read_table(csv);
  EXPECT_EQ(table.rows.size(), 7U);
  EXPECT_EQ(table.rows.back()[1], "30");
  const Json more = json_of(lattice(
      {"train", "--resume", model, "--updates", "5", "--judge-every", "4 steps", "--json"}));
  EXPECT_EQ(more["run"]["updates"], 35);
  EXPECT_EQ(more["run"]["ending"], "all updates");
  EXPECT_EQ(more["run"]["steps"].size(), 4U);
  EXPECT_TRUE(more["run"]["steps"][3].contains("watched"));
  EXPECT_TRUE(more["run"]["epochs"].back().contains("running_accuracy"));
  // What is said on the command line is how long the run is, whatever the lesson says.
  const std::string lesson = folder.file(
      "l.toml", "[data]\nset = \"kiln\"\n[training]\nupdates = 3\njudge_every = \"2 steps\"\n");
  EXPECT_EQ(json_of(lattice({"train", lesson, "--json"}))["run"]["updates"], 3);
  EXPECT_EQ(json_of(lattice({"train", lesson, "--epochs", "2", "--json"}))["run"]["updates"], 6);
  EXPECT_THAT(lattice({"train", "--epochs", "2", "--updates", "9"}).err,
              HasSubstr("one of --epochs and --updates"));
  for (const char* every : {"0", "0 steps", "-3 steps", "2.5 steps", "5 stes", "steps"})
    EXPECT_THAT(lattice({"train", "--judge-every", every}).err, HasSubstr("\"500 steps\""))
        << every;
}

TEST(train, evaluates_as_many_rows_of_the_train_part_as_it_is_told) {
  const Folder folder;
  const std::string csv = folder.path() / "run.csv";
  const std::string model = folder.path() / "m.lattice";
  const Words words = {"train", "glazes", "--rows", "300", "--epochs", "3"};
  const Answer some = lattice(with(words, {"--judge-train", "20", "--csv", csv, "--save", model,
                                           "--confusion", "every 2 epochs and steps 5"}));
  EXPECT_EQ(some.status, 0) << some.err;
  EXPECT_THAT(some.out, AllOf(HasSubstr("train loss, 20 rows"),
                              HasSubstr("the train part is evaluated by 20 rows, drawn once"),
                              HasSubstr("of the train part over 20 rows, drawn once")));
  const std::string table = content_of(csv);
  EXPECT_THAT(table, AllOf(HasSubstr("running_loss"), HasSubstr("learning_seconds"),
                           HasSubstr("recall shino"), HasSubstr("shino as ash")));
  const Json run =
      json_of(lattice(with(words, {"--judge-train", "none", "--confusion", "epochs 2", "--json"})));
  EXPECT_FALSE(run["parts"].contains("train"));
  EXPECT_FALSE(run["run"]["epochs"][1].contains("train"));
  EXPECT_EQ(run["run"]["epochs"][2]["validation"]["confusion"].size(), 4U);
  EXPECT_EQ(run["run"]["judged_train_rows"], 0);
  const Answer bare =
      lattice(with(words, {"--judge-train", "none", "--validation", "0", "--test", "0"}));
  EXPECT_EQ(bare.status, 0);
  EXPECT_THAT(bare.out, AllOf(Not(HasSubstr("train loss")), Not(HasSubstr("Assessment")),
                              HasSubstr("the train part is not evaluated")));
  EXPECT_THAT(bare.err, HasSubstr("epochs were compared by the running loss"));
  EXPECT_THAT(lattice(with(words, {"--judge-train", "few"})).err,
              HasSubstr("all, none, or a number of rows"));
  EXPECT_THAT(lattice({"train", "--resume", model, "--epochs", "1", "--judge-train", "9"}).err,
              HasSubstr("a resumed run keeps its judge_train"));
  EXPECT_THAT(lattice({"train", "--resume", model, "--epochs", "1"}).out,
              HasSubstr("train loss, 20 rows"));
  EXPECT_THAT(lattice({"compare", "glazes", "--rows", "300", "--epochs", "2", "--judge-train",
                       "none", "--vary", "rate=0.1,0.01"})
                  .out,
              AllOf(HasSubstr("–"), HasSubstr("The lowest validation loss: rate 0.1")));
}

TEST(plan, estimates_the_time_of_a_run) {
  const Json time = json_of(
      lattice({"plan", "glazes", "--rows", "300", "--epochs", "7", "--time", "--json"}))["seconds"];
  EXPECT_EQ(time["steps"], 12 * 7);
  EXPECT_EQ(time["epochs"], 7);
  EXPECT_EQ(time["evaluations"], 8);
  EXPECT_EQ(time["evaluated_rows"], 240);
  EXPECT_GT(time["step"].get<double>(), 0.0);
  EXPECT_DOUBLE_EQ(time["epoch"].get<double>(), 12.0 * time["step"].get<double>());
  EXPECT_NEAR(time["run"].get<double>(),
              84.0 * time["step"].get<double>() + 8.0 * time["evaluation"].get<double>(), 1e-12);
  EXPECT_THAT(
      lattice({"plan", "glazes", "--time"}).out,
      AllOf(HasSubstr("a step of 16 rows takes"), HasSubstr("the run of 20 epochs takes about")));
  EXPECT_THAT(lattice({"plan", "glazes", "--time", "--epochs", "0"}).out,
              AllOf(HasSubstr("an evaluation of 1600 rows"), Not(HasSubstr("a step of"))));
  EXPECT_THAT(lattice({"plan", "--inputs", "4", "--net", "dense 2", "--time"}).err,
              HasSubstr("--time needs the rows of the run"));
}

TEST(train, takes_the_last_column_for_the_target_as_data_does) {
  const Folder folder;
  std::string text = "a,b,kind\n";
  for (int row = 0; row < 40; ++row)
    text += fmt::format("{},{},{}\n", row, row * row % 7, row % 2);
  const std::string table = folder.file("pots.csv", text);
  for (const char* verb : {"train", "data"}) {
    EXPECT_THAT(lattice({verb, "--file", table}).err,
                HasSubstr("pots.csv: the last column, 'kind', is taken for the target"));
    EXPECT_THAT(lattice({verb, "--file", table, "--target", "kind"}).err,
                Not(HasSubstr("is taken for the target")));
  }
  EXPECT_THAT(lattice({"train", "--file", table, "--features", "b,kind"}).out,
              HasSubstr("a from b, kind"));
  // Names for labels, and rows of a file that has the labels.
  const std::string model = folder.path() / "m.lattice";
  ASSERT_EQ(lattice({"train", "--file", table, "--classes", "bowl,jug", "--save", model}).status,
            0);
  EXPECT_EQ(json_of(lattice({"assess", model, "--file", table,
                             "--json"}))["parts"]["pots.csv"]["classes"]["jug"]["rows"],
            20);
  EXPECT_EQ(
      json_of(lattice({"ask", model, "--file", table, "--json"}))["answers"][1]["truth"]["kind"],
      "jug");
  EXPECT_THAT(lattice({"train", "glazes", "--classes", "a,b"}).err,
              HasSubstr("a demo set has names for its classes"));
}

TEST(train, learns_several_targets_and_answers_with_each) {
  const Folder folder;
  std::string text = "moisture;height;width\n";
  for (int row = 0; row < 40; ++row)
    text += fmt::format("{},5;{};{}\n", row, 3 * row + 2, 100 - row);
  const std::string table = folder.file("pots.csv", text);
  const std::string model = (folder.path() / "m.lattice").string();
  const Words words = {"train",  "--file", table,      "--target", "height,width", "--rate", "0.2",
                       "--save", model,    "--epochs", "40"};
  const Answer trained = lattice(words);
  EXPECT_THAT(trained.out, AllOf(HasSubstr("pots.csv: height, width from moisture"),
                                 HasSubstr("height: R²"), HasSubstr("width: R²")));
  EXPECT_THAT(trained.err,
              HasSubstr("decimal-commas: pots.csv: commas are taken for decimal points in "
                        "moisture: 0,5 is 0.5"));
  const Json answer = json_of(lattice({"ask", model, "--record", "20.5", "--json"}))["answers"][0];
  EXPECT_NEAR(answer["height"], 62.0, 1.0);
  EXPECT_NEAR(answer["width"], 80.0, 1.0);
  EXPECT_THAT(lattice({"ask", model, "--record", "20.5"}).out,
              AllOf(HasSubstr("height"), HasSubstr("width")));
  const Json judged = json_of(lattice({"assess", model, "--json"}))["parts"]["test"]["targets"];
  EXPECT_GT(judged["height"]["r_squared"], 0.99);
  EXPECT_GT(judged["width"]["r_squared"], 0.99);
  EXPECT_THAT(lattice({"why", "y[0,1]", "--file", table, "--target", "height,width"}).out,
              HasSubstr("target 1 width"));
  const std::string new_rows =
      folder.file("new.csv", "moisture;height;width\n1,5;6;98\n2,5;9;97\n");
  EXPECT_THAT(lattice({"ask", model, "--file", new_rows}).err,
              HasSubstr("decimal-commas: new.csv"));
  EXPECT_THAT(lattice({"assess", model, "--file", new_rows}).err, HasSubstr("1,5 is 1.5"));
  EXPECT_THAT(lattice({"work", "--file", table, "--target", "height"}).err,
              HasSubstr("decimal-commas: pots.csv"));
  const Json look = json_of(lattice({"data", "--file", table, "--json"}));
  EXPECT_EQ(look["remarks"][0]["code"], "decimal-commas");
  EXPECT_EQ(
      json_of(lattice({"data", "--file", table, "--quiet", "decimal-commas", "--json"}))["remarks"]
          .size(),
      look["remarks"].size() - 1);
  const std::string two_features = folder.file("b.csv", "a,b,y,z\n1,2,3,4\n2,3,4,5\n3,1,2,2\n");
  EXPECT_THAT(lattice({"draw", "regions", "--file", two_features, "--target", "y,z", "--validation",
                       "0", "--test", "0", "--out", (folder.path() / "r.png").string()})
                  .err,
              AllOf(HasSubstr("a single target"), HasSubstr("--target y")));
}

TEST(lessons, hold_all_that_flags_say_and_flags_win) {
  const Folder folder;
  const std::string lesson = folder.path() / "glazes.toml";
  ASSERT_EQ(lattice({"new", "glazes", "--rows", "200", "--rule", "adam", "--rate", "0.02",
                     "--epochs", "4", "--out", lesson})
                .status,
            0);
  EXPECT_EQ(lattice({"new", "--out", lesson}).status, 2);
  const Json by_file = json_of(lattice({"train", lesson, "--json"}));
  const Json by_flags =
      json_of(lattice({"train", "glazes", "--rows", "200", "--rule", "adam", "--rate", "0.02",
                       "--epochs", "4", "--net", "dense 8, tanh, dense 4", "--json"}));
  EXPECT_EQ(by_file["parts"], by_flags["parts"]);
  EXPECT_EQ(json_of(lattice({"train", lesson, "--epochs", "2", "--json"}))["run"]["epochs"].size(),
            3U);
  const std::string table = folder.file("t.csv", made_up_table(100));
  const std::string own = folder.file(
      "own.toml", "[data]\nfile = \"t.csv\"\ntarget = \"kind\"\n[network]\nnet = \"dense 5\"\n");
  EXPECT_EQ(json_of(lattice({"train", own, "--epochs", "1", "--json"}))["parts"].size(), 3U);
}

// The prediction of a model file, by a few lines of plain Python.
TEST(model_files, are_read_by_any_json_tool) {
  const Folder folder;
  const std::string model = folder.path() / "m.lattice";
  const std::string table = folder.file("t.csv", made_up_table(200));
  ASSERT_EQ(lattice({"train", "--file", table, "--target", "kind", "--net",
                     "dense 6, tanh, dense 5", "--epochs", "3", "--save", model})
                .status,
            0);
  const Answer python = run_program(
      "/usr/bin/env", {"python3", LATTICE_SOURCE "/tests/support/ask_model.py", model, table});
  ASSERT_EQ(python.status, 0) << python.err;
  const Json theirs = Json::parse(python.out);
  const Json ours = json_of(lattice({"ask", model, "--file", table, "--json"}))["answers"];
  ASSERT_EQ(theirs.size(), ours.size());
  for (std::size_t row = 0; row < ours.size(); ++row) {
    for (const auto& [name, probability] : ours[row]["probabilities"].items())
      EXPECT_NEAR(theirs[row][name].get<double>(), probability.get<double>(), 1e-12);
  }
}

TEST(model_files, are_as_their_schema_says) {
  const Folder folder;
  const std::string schema = LATTICE_SOURCE "/docs/schemas/model.schema.json";
  const std::string model = folder.path() / "m.lattice";
  for (const Words& words :
       {with(glazes, {"--epochs", "2", "--save", model}),
        Words{"train", "kiln", "--epochs", "2", "--l2", "0.1", "--save", model},
        Words{"train", "cracks", "--validation", "0", "--rule", "rms", "--epochs", "2", "--save",
              model},
        Words{"train", "stamps", "--rows", "60", "--net",
              "conv 2 of 3x3, normalise, relu, average all, dense 8", "--augment", "shift 1",
              "--scale", "contrast 3", "--flow-every", "1", "--epochs", "2", "--save", model}}) {
    ASSERT_EQ(lattice(words).status, 0);
    const Answer check = run_program(
        "/usr/bin/python3", {LATTICE_SOURCE "/tests/support/check_schema.py", schema, model});
    EXPECT_EQ(check.status, 0) << check.out << check.err;
  }
  const std::string bad = folder.file("bad.json", "{\"format\": \"open-lattice model\"}");
  EXPECT_NE(run_program("/usr/bin/python3",
                        {LATTICE_SOURCE "/tests/support/check_schema.py", schema, bad})
                .status,
            0);
}

}  // namespace
}  // namespace lattice::testing
