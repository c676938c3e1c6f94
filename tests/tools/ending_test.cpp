#include <gmock/gmock.h>
#include <gtest/gtest.h>
#include <sys/resource.h>

#include <filesystem>

#include "support/command.hpp"

namespace lattice::testing {
namespace {

using ::testing::AllOf;
using ::testing::HasSubstr;
using ::testing::IsEmpty;
using ::testing::Not;

/// Starts a run that would go on for ever, sends it signals as soon as it trains, and tells its
/// status.
std::string run_and(const std::string& then, const std::string& more = "") {
  return "$lattice train kiln --epochs 100000000 --judge-every 1000000 --save m.lattice " + more +
         " >out 2>err & run=$!; while [ ! -s err ]; do sleep 0.02; done; sleep 0.3; " + then +
         "; wait $run; echo $?";
}

Answer in_folder(const Folder& folder, const std::string& script) {
  return shell("cd " + folder.path().string() + "; " + script);
}

TEST(ending, by_any_signal_that_asks_for_it_keeps_what_was_learnt) {
  for (const char* const signal : {"INT", "TERM", "HUP"}) {
    const Folder folder;
    // A shell ignores SIGINT for what it starts in the background; `env` puts that right.
    const Answer answer = in_folder(folder, "lattice=\"env --default-signal=INT $lattice\"; " +
                                                run_and(std::string("kill -") + signal + " $run"));
    EXPECT_EQ(answer.out, "0\n") << signal;
    const Json model = Json::parse(content_of(folder.path() / "m.lattice"));
    EXPECT_EQ(model["run"]["ending"], "asked");
    EXPECT_THAT(content_of(folder.path() / "out"), HasSubstr("Stopped when asked to."));
    EXPECT_THAT(content_of(folder.path() / "err"), HasSubstr("saved as m.lattice"));
  }
}

// Both come while it is held, so neither finds it at its end.
TEST(ending, is_at_once_when_asked_for_twice) {
  const Folder folder;
  const Answer answer = in_folder(
      folder, run_and("kill -STOP $run; kill -TERM $run; kill -HUP $run; kill -CONT $run"));
  EXPECT_THAT(answer.out, ::testing::AnyOf("143\n", "129\n"));
  EXPECT_FALSE(std::filesystem::exists(folder.path() / "m.lattice"));
}

TEST(ending, leaves_alone_a_signal_that_is_ignored) {
  const Folder folder;
  const Answer answer = in_folder(folder, "lattice=\"env --ignore-signal=HUP $lattice\"; " +
                                              run_and("kill -HUP $run; sleep 0.3; kill -0 $run && "
                                                      "echo goes on; kill -TERM $run"));
  EXPECT_EQ(answer.out, "goes on\n0\n");
}

// The system says so once a second, and ends it when twice the time is used up.
TEST(ending, because_the_time_for_it_is_used_up_keeps_what_was_learnt) {
  const Folder folder;
  const Answer answer =
      in_folder(folder,
                "ulimit -S -t 1; ulimit -H -t 20; exec $lattice train kiln --epochs 100000000 "
                "--judge-every 1000000 --save m.lattice");
  EXPECT_EQ(answer.status, 0) << answer.err;
  EXPECT_EQ(Json::parse(content_of(folder.path() / "m.lattice"))["run"]["ending"], "asked");
}

TEST(ending, because_files_may_be_no_larger_is_told_and_leaves_nothing_half_written) {
  const Folder folder;
  const Answer answer =
      in_folder(folder,
                "ulimit -f 2; TMPDIR=$PWD HOME=$PWD $lattice train glazes --rows 60 --net "
                "'dense 40, tanh, dense 4' --epochs 2 --save m.lattice");
  EXPECT_EQ(answer.status, 2);
  EXPECT_THAT(answer.err, AllOf(HasSubstr("cannot write m.lattice"), HasSubstr("File too large")));
  EXPECT_THAT(answer.out, HasSubstr("By epoch"));
  EXPECT_TRUE(std::filesystem::is_empty(folder.path()));
}

TEST(ending, for_good_does_not_leave_the_page_up) {
  const Folder folder;
  const Answer answer = in_folder(folder, run_and("kill -TERM $run", "--serve --port 0"));
  EXPECT_EQ(answer.out, "0\n");
}

// The epoch that was reached is the one to go on from, though it was not to be looked at.
TEST(ending, between_two_looks_counts_on_from_the_epoch_that_was_reached) {
  const Folder folder;
  const Answer answer = in_folder(
      folder, run_and("kill -TERM $run", "--schedule 'exponential 0.9999'") +
                  "; $lattice train --resume m.lattice --epochs 1 --save n.lattice >out 2>err");
  EXPECT_EQ(answer.status, 0) << content_of(folder.path() / "err");
  const Json before = Json::parse(content_of(folder.path() / "m.lattice"))["run"];
  const Json after = Json::parse(content_of(folder.path() / "n.lattice"))["run"];
  const std::int64_t reached = before["epochs"].back()["epoch"];
  // 36 rows in minibatches of 16 are 3 steps.
  EXPECT_EQ(reached, (before["updates"].get<std::int64_t>() + 2) / 3);
  EXPECT_GT(reached, 1);
  EXPECT_EQ(after["epochs"].back()["epoch"], reached + 1);
  const double rate = 0.01 * std::pow(0.9999, static_cast<double>(reached));
  EXPECT_NEAR(after["epochs"].back()["rate"].get<double>(), rate, 1e-12 * rate);
}

TEST(ending, of_who_reads_the_output_ends_nothing_else) {
  const Folder folder;
  const Answer answer =
      in_folder(folder,
                "{ $lattice train kiln --epochs 3 --save m.lattice; echo $? >&2; } 2>err | true; "
                "cat err");
  EXPECT_THAT(answer.out, AllOf(HasSubstr("saved as m.lattice"), HasSubstr("\n0\n")));
  EXPECT_THAT(answer.out, Not(HasSubstr("could not be written")));
  EXPECT_TRUE(std::filesystem::exists(folder.path() / "m.lattice"));
}

TEST(ending, with_a_closed_output_says_so_and_writes_into_no_file) {
  const Folder folder;
  const Answer answer = in_folder(
      folder, "$lattice train kiln --epochs 3 --save m.lattice >&- 2>err; echo $?; cat err");
  EXPECT_THAT(answer.out,
              AllOf(HasSubstr("2\n"), HasSubstr("the output could not be written: it is closed")));
  EXPECT_EQ(Json::parse(content_of(folder.path() / "m.lattice"))["format"], "open-lattice model");
  EXPECT_EQ(in_folder(folder, "$lattice train kiln --epochs 1 >&- 2>&- <&-; echo $?").out, "2\n");
}

// What is opened while the output is closed does not take its place: here a socket would.
TEST(ending, with_a_closed_output_sends_nothing_elsewhere) {
  const Folder folder;
  const Answer answer =
      in_folder(folder,
                "env --default-signal=INT $lattice train kiln --epochs 1 --serve --port 0 >&- "
                "2>err & run=$!; "
                "for wait in $(seq 200); do grep -q 'stays up' err && break; sleep 0.05; done; "
                "kill -INT $run; wait $run; cat err");
  EXPECT_THAT(answer.out, HasSubstr("the output could not be written: it is closed"));
}

TEST(ending, without_a_place_for_passing_files_says_which) {
  const Folder folder;
  const Answer answer = in_folder(folder, "TMPDIR=no/such $lattice draw curves kiln --out c.svg");
  EXPECT_EQ(answer.status, 2);
  EXPECT_THAT(answer.err, AllOf(HasSubstr("no/such"), HasSubstr("TMPDIR")));
  EXPECT_THAT(answer.out, IsEmpty());
}

/// What did not end as it should, with a thing failing that the machine is asked for.
Json failing(const std::string& kind, int places, const std::string& command) {
  return json_of(shell("ulimit -c 0; /usr/bin/python3 " LATTICE_SOURCE
                       "/tests/support/fail_everywhere.py " LATTICE_FAILING " " +
                       kind + " " + std::to_string(places) + " -- $lattice " + command));
}

const std::string all_forms =
    "work kiln --batch 2 --html a.html --xlsx a.xlsx --graph a.dot --json a.json";

// What is left of it can be looked into by who asks for that, and a script gets the status of an
// internal error otherwise.
TEST(ending, badly_leaves_a_core_dump_where_one_is_welcome) {
#if defined(LATTICE_WATCHES_MEMORY)
  GTEST_SKIP() << "bad ends are told by somebody else";
#endif
  rlimit most{};
  if (getrlimit(RLIMIT_CORE, &most) != 0 || most.rlim_max == 0)
    GTEST_SKIP() << "no core dump is allowed here";
  const auto ended = [](const std::string& limit) {
    const Folder folder;
    return shell("cd " + folder.path().string() + "; ulimit -c " + limit +
                 "; $lattice train kiln --epochs 100000000 --say nothing & "
                 "sleep 0.5; kill -SEGV $!; wait $!; echo $?");
  };
  const Answer plain = ended("0");
  EXPECT_EQ(plain.out, "3\n");
  EXPECT_THAT(plain.err, HasSubstr("internal error"));
  const Answer dumped = ended("$(ulimit -H -c)");
  EXPECT_EQ(dumped.out, "139\n");
  EXPECT_THAT(dumped.err, HasSubstr("internal error"));
}

// Every place was tried by hand; here are some of them, spread over all of the work.
TEST(failing, memory_is_told_in_one_word_and_leaves_nothing_half_done) {
#if defined(LATTICE_WATCHES_MEMORY)
  GTEST_SKIP() << "memory is watched by somebody else";
#endif
  for (const std::string& command :
       {std::string("train kiln --rows 20 --epochs 2 --save m.lattice"), all_forms}) {
    const Json report = failing("ALLOCATION", 250, command);
    EXPECT_EQ(report["wrong"], Json::array()) << command;
    EXPECT_GT(report["asked"], 1000) << command;
    EXPECT_GT(report["refused"], 200) << command;
  }
}

TEST(failing, writes_are_told_and_leave_nothing_half_done) {
#if defined(LATTICE_WATCHES_MEMORY)
  GTEST_SKIP() << "what is put before the program's libraries has to come first";
#endif
  const Json train = failing("WRITE", 30, "train kiln --rows 20 --epochs 2 --save m.lattice");
  EXPECT_EQ(train["wrong"], Json::array());
  EXPECT_GE(train["asked"], 4);
  EXPECT_EQ(train["refused"], train["asked"]);
  const Json work = failing("WRITE", 30, all_forms);
  EXPECT_EQ(work["wrong"], Json::array());
  EXPECT_GT(work["refused"], 5);
}

}  // namespace
}  // namespace lattice::testing
