#include <fmt/format.h>
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <cmath>
#include <numeric>
#include <regex>

#include "support/command.hpp"

/// Luck told from skill on the command line.
namespace lattice::testing {
namespace {

using ::testing::AllOf;
using ::testing::HasSubstr;
using ::testing::Not;

const Words cracks = {"compare", "cracks", "--rows",   "300", "--net", "dense 4, tanh, dense 2",
                      "--rule",  "adam",   "--epochs", "4"};

TEST(compare_seeds, gives_mean_and_spread_of_runs_that_the_same_seeds_give_one_by_one) {
  const Json json = json_of(lattice(
      with(cracks, {"--seeds", "4", "--seed", "7", "--vary", "rate=0.0001,0.03", "--json"})));
  ASSERT_EQ(json["compared"].size(), 2U);
  EXPECT_EQ(json["over"], "seeds");
  std::vector<double> differences;
  std::vector<std::vector<double>> losses(2);
  for (std::size_t of = 0; of < 2; ++of) {
    const Json& each = json["compared"][of];
    ASSERT_EQ(each["runs"].size(), 4U);
    for (const Json& run : each["runs"])
      losses[of].push_back(run["parts"]["validation"]["loss"]);
    const double mean = std::accumulate(losses[of].begin(), losses[of].end(), 0.0) / 4.0;
    EXPECT_NEAR(each["parts"]["validation"]["loss"]["mean"].get<double>(), mean, 1e-12);
  }
  // One of them by itself.
  Words alone = with(cracks, {"--seed", "9", "--rate", "0.03", "--json"});
  alone[0] = "train";
  EXPECT_EQ(json_of(lattice(alone))["parts"]["validation"]["loss"], losses[1][2]);
  EXPECT_EQ(json["lowest"], "rate 0.03");
  double sum = 0.0;
  for (std::size_t run = 0; run < 4; ++run)
    sum += losses[0][run] - losses[1][run];
  EXPECT_NEAR(json["apart"][0]["difference"].get<double>(), sum / 4.0, 1e-12);
  const auto margin = json["apart"][0]["margin"].get<double>();
  EXPECT_GT(margin, 0.0);
  EXPECT_EQ(json["apart"][0]["is_significant"], std::abs(sum / 4.0) > margin);
}

TEST(compare, gives_the_same_figures_and_order_on_any_number_of_threads) {
  const auto on = [](int most, const Words& more) {
    const Words program = {fmt::format("OMP_NUM_THREADS={}", most), LATTICE_PROGRAM};
    Answer answer = run_program("/usr/bin/env", with(with(program, cracks), more));
    answer.err = std::regex_replace(answer.err, std::regex(" in [^ ]+ s"), "");
    return answer;
  };
  for (const Words& more : {Words{"--vary", "rate=0.3,0.1,0.03,0.01,0.003"},
                            Words{"--vary", "rate=0.3,0.01", "--seeds", "4", "--each-run"},
                            Words{"--vary", "rate=0.3,0.01", "--folds", "3", "--each-run"},
                            Words{"--vary", "validation=0.1,0.95,0.2,0.99,0.3"}}) {
    const Answer one = on(1, more);
    for (const int most : {2, 3, 16}) {
      const Answer several = on(most, more);
      EXPECT_EQ(several.status, one.status);
      EXPECT_EQ(several.out, one.out);
      EXPECT_EQ(several.err, one.err);
    }
  }
  const Answer failing = on(2, {"--vary", "validation=0.1,0.95,0.2,0.99,0.3"});
  EXPECT_EQ(failing.status, 2);
  EXPECT_THAT(failing.err, AllOf(HasSubstr("validation 0.1: 4 epochs"), HasSubstr("0.95"),
                                 Not(HasSubstr("0.99"))));
}

TEST(compare_seeds, says_in_words_what_is_more_than_luck_and_calls_no_seed_best) {
  const Answer answer = lattice(with(cracks, {"--seeds", "3", "--vary", "rate=0.0001,0.03,0.030"}));
  EXPECT_EQ(answer.status, 0) << answer.err;
  EXPECT_THAT(answer.out, AllOf(HasSubstr("standard deviation over 3 seeds"),
                                HasSubstr("No seed is better than another"),
                                HasSubstr("rate 0.0001: its validation loss is"),
                                HasSubstr("The difference is significant."), HasSubstr("With this"),
                                HasSubstr("Its test part")));
}

TEST(compare_seeds, takes_one_lesson_alone_too) {
  const Answer answer = lattice(with(cracks, {"--seeds", "3"}));
  EXPECT_EQ(answer.status, 0) << answer.err;
  EXPECT_THAT(answer.out,
              AllOf(HasSubstr(" ± "), Not(HasSubstr("lowest")), HasSubstr("The test part")));
}

TEST(compare_folds, validates_every_row_once) {
  const Folder folder;
  const std::string csv = folder.path() / "runs.csv";
  const std::string picture = folder.path() / "runs.svg";
  const Answer answer = lattice(with(cracks, {"--folds", "4", "--vary", "rate=0.01,0.03", "--csv",
                                              csv, "--draw", picture, "--json"}));
  const Json json = json_of(answer);
  double rows = 0.0;
  for (const Json& run : json["compared"][0]["runs"])
    rows += run["parts"]["validation"]["rows"].get<double>();
  EXPECT_EQ(rows, 240.0);
  EXPECT_THAT(content_of(csv), HasSubstr("rate 0.03 · fold 3"));
  EXPECT_THAT(content_of(picture),
              AllOf(HasSubstr("validation loss by epoch"), HasSubstr("4 runs of each")));
}

TEST(compare_seeds, teaches_when_it_cannot_be_done) {
  const auto trouble = [](const Words& more) {
    const Answer answer = lattice(with(cracks, more));
    EXPECT_EQ(answer.status, 2);
    return answer.err;
  };
  EXPECT_THAT(trouble({"--seeds", "3", "--folds", "3"}), HasSubstr("one of --seeds and --folds"));
  EXPECT_THAT(trouble({"--seeds", "1"}), HasSubstr("a whole number from 2"));
  EXPECT_THAT(trouble({"--folds", "9999"}), HasSubstr("cannot be dealt into 9999 folds"));
  EXPECT_THAT(trouble({}), HasSubstr("--seeds or --folds"));
}

}  // namespace
}  // namespace lattice::testing
