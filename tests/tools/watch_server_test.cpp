#include <fmt/format.h>
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <algorithm>

#include "support/command.hpp"

namespace lattice::testing {
namespace {

using ::testing::AllOf;
using ::testing::HasSubstr;
using ::testing::Not;
using ::testing::StartsWith;

// 200 watchers, one that never reads, half-open ones, rubbish: nobody misses an epoch, nothing but
// the page and its events is handed out, and the run does not notice.
TEST(serve, tells_everybody_everything_and_gives_nothing_else_away) {
  const Words lesson = {"cracks",        "--net", "dense 8, tanh, dense 2", "--epochs", "400",
                        "--judge-every", "4",     "--steps-every",          "5000"};
  const Json report = json_of(run_program(
      "/usr/bin/python3",
      with(with({LATTICE_SOURCE "/tests/support/watch_run.py", LATTICE_PROGRAM, "train"}, lesson),
           {"--serve", "--port", "0", "--json"})));

  const auto epochs = [](const Json& names) { return std::ranges::count(names, Json("epoch")); };
  ASSERT_EQ(report["watchers"].size(), 200U);
  for (const Json& names : report["watchers"]) {
    EXPECT_EQ(epochs(names), 101);
    EXPECT_EQ(std::ranges::count(names, Json("step")), 9);
    EXPECT_EQ(names[0], "start");
    EXPECT_EQ(std::ranges::count(names, Json("end")), 1);
  }
  Json late = Json::array();
  Json last_epoch;
  Json last_step;
  for (const Json& event : report["late"]) {
    late.push_back(event[0]);
    if (event[0] == "epoch") last_epoch = Json::parse(event[1].get<std::string>());
    if (event[0] == "step") last_step = Json::parse(event[1].get<std::string>());
  }
  EXPECT_EQ(epochs(late), 101);

  EXPECT_THAT(report["page_beside_the_crowd"].get<std::string>(), HasSubstr("EventSource"));
  for (const auto& [path, answer] : report["other_files"].items())
    EXPECT_THAT(answer.get<std::string>(), Not(HasSubstr(" 200"))) << path;
  for (const Json& answer : report["rubbish"])
    EXPECT_THAT(answer.get<std::string>(), Not(HasSubstr(" 200"))) << answer;
  EXPECT_EQ(report["still_running"], true);
  EXPECT_THAT(report["said"].get<std::string>(), HasSubstr("stays up until Ctrl-C"));
  EXPECT_EQ(report["status"], 0);
  EXPECT_EQ(report["gone"], true);

  // The run itself is the one that nobody watches.
  const Json watched = Json::parse(report["out"].get<std::string>());
  const Json alone =
      json_of(lattice(with(with({"train"}, lesson), {"--json", "--say", "nothing"})));
  EXPECT_EQ(watched["parts"], alone["parts"]);
  EXPECT_EQ(last_step, alone["run"]["steps"].back());
  EXPECT_EQ(last_epoch["train"], alone["run"]["epochs"].back()["train"]);
}

// Heads that never end or drip, bodies, ranges, pages nobody takes, watchers that do not read: 256
// connections each.
TEST(serve, is_not_made_larger_or_slower_by_those_who_mean_it_no_good) {
  const Words lesson = {"train",    "cracks", "--net",         "dense 8, tanh, dense 2",
                        "--epochs", "4000",   "--judge-every", "20",
                        "--json"};
  const Json report = json_of(run_program(
      "/usr/bin/python3",
      with(with({LATTICE_SOURCE "/tests/support/attack_run.py", LATTICE_PROGRAM}, lesson),
           {"--serve"})));
#if !defined(LATTICE_WATCHES_MEMORY)
  const std::int64_t more_kb =
      report["attacked_kb"].get<std::int64_t>() - report["alone_kb"].get<std::int64_t>();
  EXPECT_LT(more_kb, 64'000);
#endif
  for (const char* const attack :
       {"a head that never ends", "a head that drips", "a body that never ends"})
    EXPECT_EQ(report["cut_off"][attack], true) << attack;
  EXPECT_EQ(report["asked_for"], Json(std::vector<std::string>(3, "HTTP/1.1 200")));
  EXPECT_EQ(report["not_asked_for"], Json(std::vector<std::string>(4, "HTTP/1.1 421")));
  EXPECT_EQ(report["ranges"], "HTTP/1.1 200");
  EXPECT_EQ(report["page"], "HTTP/1.1 200");
  // Two runs do not share a port.
  EXPECT_EQ(report["second"]["status"], 2);
  EXPECT_THAT(report["second"]["said"].get<std::string>(),
              HasSubstr("another program listens there"));
  EXPECT_EQ(report["status"], 0);
  const Json attacked = Json::parse(report["out"].get<std::string>());
  const Json alone = json_of(lattice(with(lesson, {"--say", "nothing"})));
  EXPECT_EQ(attacked["parts"], alone["parts"]);
}

// A quarter of a million steps that nobody watches: what is kept of them is bounded, from the first
// to the last.
TEST(serve, keeps_no_more_of_a_long_run_than_a_screen_can_show) {
  const Folder folder;
  std::string rows = "x,y\n";
  for (int row = 0; row < 60; ++row)
    rows += fmt::format("{},{}\n", row, 2 * row + 1);
  const Json report =
      json_of(run_program("/usr/bin/python3", {LATTICE_SOURCE "/tests/support/watch_long_run.py",
                                               LATTICE_PROGRAM,
                                               "train",
                                               "--file",
                                               folder.file("t.csv", rows),
                                               "--target",
                                               "y",
                                               "--validation",
                                               "0",
                                               "--test",
                                               "0",
                                               "--batch",
                                               "1",
                                               "--epochs",
                                               "4000",
                                               "--steps-every",
                                               "1",
                                               "--rate",
                                               "0.01",
                                               "--say",
                                               "nothing"}));
  EXPECT_EQ(report["counts"]["start"], 1);
  EXPECT_EQ(report["counts"]["end"], 1);
  EXPECT_LE(report["counts"]["step"], 2048);
  EXPECT_GT(report["counts"]["step"], 1000);
  EXPECT_LE(report["counts"]["epoch"], 2048);
  EXPECT_GT(report["counts"]["epoch"], 1000);
  EXPECT_EQ(report["first_step"], 1);
  EXPECT_EQ(report["last_step"], 240'000);
#if !defined(LATTICE_WATCHES_MEMORY)
  EXPECT_LT(report["served_kb"].get<int>(), report["alone_kb"].get<int>() + 20'000);
#endif
}

/// What stands on the page of a run when it is over.
Json watched(const Words& lesson) {
  return json_of(run_program(
      "/usr/bin/python3",
      with(with({LATTICE_SOURCE "/tests/support/watch_in_browser.py", LATTICE_PROGRAM, "train"},
                lesson),
           {"--serve", "--port", "0"})));
}

TEST(serve, draws_in_a_browser_the_pictures_that_are_got_wrong) {
  const Json seen = watched({"stamps", "--rows", "200", "--epochs", "1", "--rate", "0.001"});
  ASSERT_EQ(seen["wrong"].size(), 12U);
  EXPECT_THAT(seen["wrong"][0][0].get<std::string>(), HasSubstr("said "));
  EXPECT_EQ(seen["wrong"][0][1], 12);
  EXPECT_EQ(seen["console"], Json::array());
  EXPECT_TRUE(watched({"cracks", "--rows", "90", "--epochs", "1"})["wrong"].empty());
}

// The run ends with the weights of an epoch before its last; what is drawn at the end is theirs.
TEST(serve, says_in_a_browser_which_weights_it_draws) {
  const Words lesson = {"cracks", "--epochs", "12", "--patience", "3", "--keep-best"};
  const Json run = json_of(lattice(with(with({"train"}, lesson), {"--json"})))["run"];
  const std::int64_t best = run["best"]["epoch"];
  ASSERT_LT(best, run["epochs"].back()["epoch"]);
  const Json& validation = run["epochs"][static_cast<std::size_t>(best)]["validation"];

  const Json seen = watched(lesson);
  const Json& drawn = seen["confusion"];
  EXPECT_EQ(drawn["title"], fmt::format("Truth by answer: validation part, epoch {}", best));
  EXPECT_EQ(seen["regions"], fmt::format("What it answers where: epoch {}", best));
  EXPECT_EQ(seen["network"]["title"],
            fmt::format("The network for the first row of the validation part: epoch {}", best));
  EXPECT_EQ(seen["network"]["heads"].front(), "x");
  EXPECT_EQ(seen["network"]["cells"], 5);
  double right = 0.0;
  double all = 0.0;
  for (std::size_t truth = 0; truth < drawn["counts"].size(); ++truth) {
    for (std::size_t answer = 0; answer < drawn["counts"].size(); ++answer) {
      const double count = drawn["counts"][truth][answer];
      all += count;
      if (answer == truth) right += count;
    }
  }
  EXPECT_DOUBLE_EQ(right / all, validation["accuracy"].get<double>());
}

TEST(serve, draws_in_a_browser_the_nodes_of_a_graph) {
  const Words studios = {"studios", "--epochs", "20", "--rule", "adam", "--rate", "0.02", "--net"};
  const Json two = watched(with(studios, {"neighbours, dense 2, tanh, neighbours, dense 4"}));
  ASSERT_EQ(two["nodes"].size(), 1U);
  EXPECT_THAT(two["nodes"][0].get<std::string>(),
              AllOf(HasSubstr("neighbours2: epoch 20, "), HasSubstr(" of 40 others right")));
  EXPECT_EQ(two["console"], Json::array());
  const Json laid = watched(with(studios, {"neighbours, dense 4"}));
  EXPECT_THAT(laid["nodes"][0].get<std::string>(), HasSubstr("The graph: epoch 20"));
  EXPECT_TRUE(watched({"kiln", "--epochs", "1"})["nodes"].empty());
}

TEST(serve, draws_in_a_browser_what_it_tells) {
  const auto glazes = [](const Words& more) {
    return watched(with({"glazes", "--rows", "500", "--epochs", "5"}, more));
  };
  const Json by_step = glazes({"--judge-every", "15 steps", "--steps-every", "5"});
  EXPECT_THAT(by_step["state"].get<std::string>(),
              AllOf(HasSubstr("epoch 5 of 5"), HasSubstr("running loss "), HasSubstr(", accuracy "),
                    HasSubstr("ended: all epochs, 95 updates")));
  EXPECT_EQ(by_step["console"], Json::array());
  ASSERT_EQ(by_step["curves"].size(), 2U);
  // 19 steps an epoch; none of those that were looked at ends one.
  for (const Json& drawing : by_step["curves"]) {
    EXPECT_EQ(drawing["points"]["minibatch"], 19);
    EXPECT_EQ(drawing["points"]["running"], 5 + 18);
    EXPECT_EQ(drawing["points"]["train"], 6);
    EXPECT_EQ(drawing["points"]["validation"], 6 + 6);
  }
  const Json by_epoch = glazes({"--schedule", "steps 2 0.5", "--reference", "a potter = 0.97"});
  EXPECT_THAT(by_epoch["curves"][1]["words"], ::testing::Contains("a potter: 0.97"));
  EXPECT_EQ(by_epoch["curves"][0]["title"], "loss by epoch");
  EXPECT_EQ(by_epoch["curves"][0]["points"]["validation"], 6);
  EXPECT_FALSE(by_epoch["curves"][0]["points"].contains("minibatch"));
  EXPECT_THAT(by_epoch["curves"][0]["words"], ::testing::Contains("rate changed"));
}

// A file or a thread that cannot be had is not needed by the run.
TEST(serve, lets_the_run_go_on_where_the_machine_has_nothing_left) {
  const Answer files = shell("ulimit -n 20; $lattice train kiln --epochs 2 --serve --port 0");
  EXPECT_EQ(files.status, 0);
  EXPECT_THAT(files.err, HasSubstr("the run cannot be watched"));
  EXPECT_THAT(files.out, HasSubstr("mean squared error"));
#if !defined(LATTICE_WATCHES_MEMORY)
  // The page has three threads, minibatches that are put together ahead one more, large products
  // others; whichever cannot be started, the run goes on, and gives what it gives.
  const std::string run =
      " $lattice train glazes --net 'dense 600, tanh, dense 600, tanh, dense 4' "
      "--rows 300 --batch 180 --epochs 2 --ahead 1 --json";
  const Json parts = json_of(shell(run))["parts"];
  for (int thread = 1; thread <= 6; ++thread) {
    const Answer answer =
        shell("FAIL_THREAD=" + std::to_string(thread) + " LD_PRELOAD=" LATTICE_FAILING + run +
              " --serve --port 0 & run=$!; "
              "sleep 1.5; kill -TERM $run 2>/dev/null; wait $run; exit $?");
    EXPECT_EQ(json_of(answer)["parts"], parts) << thread;
    EXPECT_EQ(answer.err.find("it goes on without") != std::string::npos, thread <= 3) << thread;
  }
#endif
  const Answer early = shell("$lattice train kiln --epochs 2 --batch 1000 --serve --port 0");
  EXPECT_EQ(early.status, 2);
  EXPECT_THAT(early.err, HasSubstr("a minibatch of 1000 rows"));
}

TEST(serve, refuses_what_it_cannot_listen_on) {
  const Answer answer = lattice({"train", "kiln", "--serve", "--address", "192.0.2.1"});
  EXPECT_EQ(answer.status, 2);
  EXPECT_THAT(answer.err, AllOf(HasSubstr("nothing can listen on 192.0.2.1"),
                                HasSubstr("an address of another")));
  EXPECT_EQ(lattice({"train", "kiln", "--serve", "--address", ""}).status, 2);
  EXPECT_THAT(lattice({"train", "kiln", "--serve", "--address", "localhost.example"}).err,
              HasSubstr("in numbers"));
  EXPECT_THAT(lattice({"train", "kiln", "--serve", "--port", "99999"}).err, HasSubstr("65535"));
}

}  // namespace
}  // namespace lattice::testing
