#include "lattice/learning/training.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include "lattice/core.hpp"
#include "support/runs.hpp"
#include "support/said.hpp"

namespace lattice {
namespace {

using testing::expect_same;
using ::testing::HasSubstr;
using testing::parts_of;

struct Resumed {
  std::string name;
  TrainSettings settings;
  std::string blueprint = "dense 6, tanh, dropout 0.2, dense 4";
};

std::vector<Resumed> every_rule_and_schedule() {
  std::vector<Resumed> cases;
  for (const UpdateRule& rule : std::vector<UpdateRule>{
           Descent{.rate = 0.1}, Momentum{.rate = 0.05}, RmsScaling{.rate = 0.01},
           Adam{.rate = 0.01, .weight_decay = 0.01}}) {
    for (const Schedule& schedule :
         {Schedule::constant(), Schedule::steps(3, 0.5), Schedule::exponential(0.9),
          Schedule::cosine(15, 1e-4), Schedule::on_stall(1, 0.5),
          Schedule::on_stall(1, 0.5, {.least = 0.01, .by = 0.05}).after_warm_up(12)}) {
      cases.push_back({.name = std::string(rule.word()) + ", " + schedule.text(),
                       .settings = {.rule = rule, .schedule = schedule}});
    }
  }
  cases.push_back({.name = "early stop",
                   .settings = {.rule = Adam{.rate = 0.1}, .patience = 2, .keep_best = true}});
  cases.push_back(
      {.name = "limits",
       .settings = {.rule = Momentum{.rate = 0.1}, .l2 = 0.01, .clip_norm = 0.5, .ahead = 2}});
  return cases;
}

TEST(going_on, is_as_if_the_run_had_never_ended) {
  const Split parts = parts_of("glazes", 200);
  for (Resumed& each : every_rule_and_schedule()) {
    SCOPED_TRACE(each.name);
    each.settings.epochs = 20;
    Network whole(Shape{5}, each.blueprint, Random(3));
    Network halves = whole;
    const RunRecord at_once = train(whole, parts, each.settings);
    each.settings.epochs = 10;
    RunRecord run = train(halves, parts, each.settings);
    EXPECT_TRUE(run.joins.empty());
    go_on(halves, run, parts, each.settings);
    expect_same(at_once, run);
    expect_same(whole.weights(), halves.weights());
    EXPECT_EQ(run.joins, std::vector<std::int64_t>{std::min<std::int64_t>(10, run.last_epoch())});
    EXPECT_EQ(at_once.epochs.size(), static_cast<std::size_t>(at_once.last_epoch() + 1));
  }
}

// A run that is cut off at any time loses nothing but what came after its last record.
TEST(going_on, may_begin_at_any_record_made_on_the_way) {
  const Split parts = parts_of("glazes", 200);
  const Network start(Shape{5}, "dense 6, normalise, tanh, dropout 0.2, dense 4", Random(3));
  TrainSettings settings{.rule = Adam{.rate = 0.02}, .epochs = 9};
  settings.schedule = Schedule::steps(2, 0.7).after_warm_up(3);
  Network whole = start;
  const RunRecord at_once = train(whole, parts, settings);

  struct Saved {
    Network network;
    RunRecord run;
  };
  std::vector<Saved> saved;
  Network going = start;
  const Training* run = nullptr;
  settings.observer = [&](const EpochFigures&) {
    if (run != nullptr) saved.push_back({going, run->so_far()});
  };
  Training training(going, parts, settings);
  run = &training;
  while (training.step()) {
  }
  ASSERT_EQ(saved.size(), 9U);
  settings.observer = nullptr;
  for (std::int64_t epoch = 1; epoch < 9; ++epoch) {
    SCOPED_TRACE(epoch);
    Saved& from = saved[static_cast<std::size_t>(epoch - 1)];
    EXPECT_EQ(from.run.last_epoch(), epoch);
    settings.epochs = 9 - epoch;
    go_on(from.network, from.run, parts, settings);
    expect_same(at_once, from.run);
    expect_same(whole.weights(), from.network.weights());
  }
}

TEST(going_on, is_told_once_for_each_time_and_not_twice_where_nothing_was_trained) {
  const Split parts = parts_of("glazes", 200);
  Network net(Shape{5}, "dense 4", Random(3));
  RunRecord run = train(net, parts, {.epochs = 2});
  go_on(net, run, parts, {.epochs = 1});
  TrainSettings none{.epochs = 1};
  none.should_stop = [] { return true; };
  for (int time = 0; time < 2; ++time) {
    Training training(net, run, parts, none);
    run = training.finish();
  }
  EXPECT_EQ(run.joins, (std::vector<std::int64_t>{2, 3}));
}

TEST(going_on, and_starting_over_cannot_be_mixed_up) {
  const Split parts = parts_of("glazes", 200);
  Network net(Shape{5}, "dense 4", Random(3));
  RunRecord run = train(net, parts, {.epochs = 1});
  const std::string refusal =
      testing::said<SettingError>([&] { return train(net, parts, {.epochs = 1}); });
  EXPECT_THAT(refusal, HasSubstr("has been trained already"));
  EXPECT_THAT(refusal, HasSubstr("go_on"));
  Network other(Shape{5}, "dense 6, dense 4", Random(3));
  EXPECT_THROW(go_on(other, run, parts, {.epochs = 1}), SettingError);
  // Of the same layers, and yet not the network that the run ended with.
  const auto trouble = [&](Network& network) {
    try {
      go_on(network, run, parts, {.epochs = 1});
    } catch (const SettingError& error) {
      return error.trouble().found;
    }
    return std::string("nothing");
  };
  Network fresh(Shape{5}, "dense 4", Random(3));
  EXPECT_EQ(trouble(fresh), "a network after 0 updates, and a record of 8");
  Network changed = net;
  changed.set("output.bias", ones({4}));
  EXPECT_EQ(trouble(changed), "a network with other numbers than the run ended with");
  RunRecord nothing;
  EXPECT_THROW(go_on(net, nothing, parts, {.epochs = 1}), SettingError);
  net.start_over(Random(3));
  EXPECT_NO_THROW(static_cast<void>(train(net, parts, {.epochs = 1})));
}

}  // namespace
}  // namespace lattice
