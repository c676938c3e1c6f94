#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <algorithm>

#include "support/command.hpp"

namespace lattice::testing {
namespace {

using ::testing::HasSubstr;
using ::testing::Not;
using ::testing::StartsWith;

// 200 watchers, one that never reads, half-open ones, rubbish: nobody misses an epoch, nothing but
// the page and its events is handed out, and the run does not notice.
TEST(serve, tells_everybody_everything_and_gives_nothing_else_away) {
  const Words lesson = {"cracks",        "--net", "dense 8, tanh, dense 2", "--epochs", "400",
                        "--judge-every", "4"};
  const Json report = json_of(run_program(
      "/usr/bin/python3",
      with(with({LATTICE_SOURCE "/tests/support/watch_run.py", LATTICE_PROGRAM, "train"}, lesson),
           {"--serve", "--port", "0", "--json"})));

  const auto epochs = [](const Json& names) { return std::ranges::count(names, Json("epoch")); };
  ASSERT_EQ(report["watchers"].size(), 200U);
  for (const Json& names : report["watchers"]) {
    EXPECT_EQ(epochs(names), 101);
    EXPECT_EQ(names[0], "start");
    EXPECT_EQ(std::ranges::count(names, Json("end")), 1);
  }
  Json late = Json::array();
  Json last_epoch;
  Json picture;
  for (const Json& event : report["late"]) {
    late.push_back(event[0]);
    if (event[0] == "epoch") last_epoch = Json::parse(event[1].get<std::string>());
    if (event[0] == "picture") picture = Json::parse(event[1].get<std::string>());
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
  EXPECT_EQ(last_epoch["train"], alone["run"]["epochs"].back()["train"]);
  if (!picture.is_null()) {
    EXPECT_EQ(picture["regions"].size(), 50U);
    EXPECT_EQ(picture["confusion"].size(), 2U);
  }
}

TEST(serve, refuses_what_it_cannot_listen_on) {
  const Answer answer = lattice({"train", "kiln", "--serve", "--address", "192.0.2.1"});
  EXPECT_EQ(answer.status, 2);
  EXPECT_THAT(answer.err, HasSubstr("nothing can listen on 192.0.2.1"));
  EXPECT_THAT(lattice({"train", "kiln", "--serve", "--port", "99999"}).err, HasSubstr("65535"));
}

}  // namespace
}  // namespace lattice::testing
