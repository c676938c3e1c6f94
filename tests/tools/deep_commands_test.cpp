#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include "support/command.hpp"
#include "support/process.hpp"

namespace lattice::testing {
namespace {

using ::testing::AllOf;
using ::testing::HasSubstr;
using ::testing::Not;

/// Tiles through a few layers, in no time.
Words deep(const std::string& verb, const Words& more = {}) {
  return with(
      {verb, "tiles", "--rows", "60", "--resize", "6x6", "--precision", "single", "--net",
       "conv 4 of 3x3 keeping size, normalise, relu, 3 times (residual(conv 4 of 3x3 keeping "
       "size, normalise), relu), average all, dense 6"},
      more);
}

TEST(deep_networks, are_planned_with_groups_folded_or_opened) {
  const Answer folded = lattice(deep("plan"));
  EXPECT_EQ(folded.status, 0) << folded.err;
  EXPECT_THAT(folded.out, AllOf(HasSubstr("block2 to block3  2 times like block"),
                                Not(HasSubstr("\nblock3 ")), HasSubstr("numbers on the worksheet"),
                                HasSubstr("Memory in single precision: weights ")));
  EXPECT_THAT(lattice(deep("plan", {"--open"})).out,
              AllOf(HasSubstr("\nblock3 "), Not(HasSubstr("like block"))));
  const Json json = json_of(lattice(deep("plan", {"--json"})));
  EXPECT_EQ(json["layers"][5]["name"], "block3");
  EXPECT_EQ(json["memory_bytes"]["gradients"], 4 * json["weights"].get<std::int64_t>());
  const Json small =
      json_of(lattice({"plan", "--net", "dense 3, normalise, dense 2", "--inputs", "4", "--rule",
                       "adam", "--batch", "10", "--precision", "single", "--json"}));
  // 15 + 6 + 6 running + 8; two moments of 29; 4 bytes each.
  EXPECT_EQ(small["memory_bytes"]["weights"], 4 * 35);
  EXPECT_EQ(small["memory_bytes"]["gradients"], 4 * 29);
  EXPECT_EQ(small["memory_bytes"]["rule"], 4 * 58);
  EXPECT_EQ(json["layers"][5]["inside"][0]["inside"][0]["name"], "block3.residual.conv");
}

TEST(deep_networks, are_looked_through_while_they_are_trained) {
  const Folder folder;
  const std::string model = folder.path() / "m.lattice";
  const Answer told =
      lattice(deep("train", {"--epochs", "3", "--flow-every", "2", "--save", model}));
  EXPECT_THAT(told.out,
              AllOf(HasSubstr("Through the layers"), HasSubstr("block3.residual.conv "),
                    HasSubstr("before training, and now, after epoch 3"), HasSubstr("∂ norm")));
  const Json run =
      json_of(lattice(deep("train", {"--epochs", "3", "--flow-every", "2", "--json"})));
  ASSERT_EQ(run["run"]["flow"].size(), 3U);
  EXPECT_EQ(run["run"]["flow"][2]["epoch"], 3);
  EXPECT_GT(run["run"]["flow"][0]["layers"][0]["gradient_norm"].get<double>(), 0.0);
  EXPECT_THAT(lattice(deep("train", {"--epochs", "1"})).out, Not(HasSubstr("Through the layers")));

  const std::string picture = folder.path() / "d.svg";
  EXPECT_EQ(lattice({"draw", "flow", model, model, "--out", picture}).status, 0);
  EXPECT_THAT(content_of(picture), AllOf(HasSubstr("before training"), HasSubstr("epoch 3"),
                                         HasSubstr("gradient norm at the output")));
  EXPECT_EQ(
      lattice(with(Words{"draw", "flow"}, with(deep("flow"), {"--epochs", "1", "--out", picture})))
          .status,
      2);
}

TEST(deep_networks, tell_of_rates_as_they_change) {
  const Answer steps =
      lattice(deep("train", {"--epochs", "5", "--schedule", "steps 2 0.5", "--rate", "0.02"}));
  EXPECT_THAT(steps.err, AllOf(HasSubstr("epoch 3: the rate is 0.01 from here on, before 0.02"),
                               HasSubstr("epoch 5: the rate is 0.005")));
  // A rate that changes with every epoch is told with the epochs.
  const Answer falling =
      lattice(deep("train", {"--epochs", "4", "--schedule", "exponential 0.5", "--rate", "0.02"}));
  EXPECT_THAT(falling.err, AllOf(HasSubstr("epoch 2: the rate is 0.01"),
                                 Not(HasSubstr("epoch 3: the rate")), HasSubstr("; rate 0.0025")));
}

TEST(pictures_to_learn_from, are_moved_about_and_it_is_said_how) {
  const Folder folder;
  const Words moved = {"--augment", "shift 2 filled with 9, flip across, turn 15", "--batch", "2"};
  const Answer work = lattice(deep("work", moved));
  EXPECT_THAT(work.out, AllOf(HasSubstr("augmented: shift 2 filled with 9, flip across, turn 15"),
                              HasSubstr("augmented:\n    │   example 0: "),
                              HasSubstr("augmented = augmented(raw, moves; around 9)")));
  const Json json = json_of(lattice(deep("work", with(moved, {"--json"}))));
  ASSERT_EQ(json["steps"][0]["augmented"].size(), 2U);
  EXPECT_EQ(json["steps"][0]["flow"][0]["layer"], "conv");
  const std::string words = json["steps"][0]["augmented"][0];
  EXPECT_THAT(work.out, HasSubstr("example 0: " + words));

  // The same bits, however many threads prepare them, and going on.
  const std::string model = folder.path() / "m.lattice";
  const auto judged = [&](const Words& more) {
    return json_of(lattice(deep("train", with(with(moved, more), {"--json"}))))["parts"];
  };
  const Json parts = judged({"--epochs", "4"});
  EXPECT_EQ(judged({"--epochs", "4", "--ahead", "3"}), parts);
  ASSERT_EQ(lattice(deep("train", with(moved, {"--epochs", "2", "--save", model}))).status, 0);
  const Answer resumed =
      lattice({"train", "--resume", model, "--epochs", "2", "--ahead", "2", "--json"});
  EXPECT_EQ(json_of(resumed)["parts"], parts);
  const Words as_they_are = {"--batch", "2", "--epochs", "4", "--json"};
  EXPECT_NE(json_of(lattice(deep("train", as_they_are)))["parts"], parts);
  EXPECT_THAT(lattice({"train", "--resume", model, "--augment", "none"}).err,
              HasSubstr("keeps its augment"));

  EXPECT_THAT(lattice({"train", "glazes", "--augment", "shift 1"}).err,
              HasSubstr("only pictures can be augmented"));
  EXPECT_THAT(lattice(deep("train", {"--augment", "shift -1"})).err,
              HasSubstr("--augment cannot be"));
  EXPECT_EQ(lattice(deep("train", {"--ahead", "65"})).status, 2);
}

TEST(model_files, without_their_running_statistics_are_refused) {
  const Folder folder;
  const std::string model = folder.path() / "m.lattice";
  ASSERT_EQ(lattice(deep("train", {"--epochs", "1", "--save", model})).status, 0);
  Json json = Json::parse(content_of(model));
  json["network"]["weights"].erase("normalise.mean");
  const std::string without = folder.file("without.lattice", json.dump());
  const Answer answer = lattice({"assess", without});
  EXPECT_EQ(answer.status, 2);
  EXPECT_THAT(answer.err, AllOf(HasSubstr("without.lattice"), HasSubstr("network.weights"),
                                HasSubstr("as the blueprint says")));
}

TEST(remarks, on_what_passes_through_are_told_after_a_run) {
  const Folder folder;
  const std::string model = folder.path() / "deep.lattice";
  const Answer answer =
      lattice({"train", "glazes", "--rows", "100", "--epochs", "1", "--net",
               "8 times (dense 8 start normal 0.1, tanh), dense 4", "--save", model});
  EXPECT_THAT(answer.err + answer.out, AllOf(HasSubstr("gradient-vanishes: before training"),
                                             HasSubstr(" at block.hidden")));
  // A run that is gone on with was told already.
  EXPECT_THAT(lattice({"train", "--resume", model, "--epochs", "1"}).err,
              Not(HasSubstr("before training")));
  const Answer alone = lattice({"train", "glazes", "--rows", "100", "--epochs", "1", "--net",
                                "dense 8, normalise, tanh, dense 4", "--batch", "59"});
  EXPECT_THAT(alone.err + alone.out,
              AllOf(HasSubstr("minibatch-of-one"), HasSubstr("running-statistics")));
}

}  // namespace
}  // namespace lattice::testing
