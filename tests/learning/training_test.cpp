#include "lattice/learning/training.hpp"

#include <fmt/format.h>
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>

#include "lattice/core.hpp"
#include "support/runs.hpp"
#include "support/said.hpp"

namespace lattice {
namespace {

using testing::expect_same;
using ::testing::HasSubstr;
using testing::parts_of;

// The loop as a student writes it, and the one call.
TEST(training, gives_the_bits_of_a_loop_written_by_hand) {
  const Split parts = parts_of("glazes", 300);
  Network by_hand(Shape{5}, "dense 8, tanh, dropout 0.1, dense 4", Random(3));
  Network by_call = by_hand;

  Adam rule{.rate = 0.01};
  Random row_order = Random(9).branch("rows");
  Random chance = Random(9).branch("dropout");
  std::vector<double> running;
  for (int epoch = 1; epoch <= 3; ++epoch) {
    double total = 0.0;
    for (const Batch& batch : minibatches(parts.train, {.size = 16}, row_order)) {
      Worksheet sheet;
      const Line scores =
          by_hand.forward(sheet, sheet.given("x", batch.features), Phase::training(chance));
      const Line loss = cross_entropy(scores, sheet.given("y", batch.classes));
      update(rule, by_hand, reverse_sweep(loss));
      total += loss.value().number() * static_cast<double>(batch.rows.size());
    }
    running.push_back(total / static_cast<double>(parts.train.count()));
  }
  const RunRecord run =
      train(by_call, parts, {.rule = Adam{.rate = 0.01}, .epochs = 3, .batch = 16, .seed = 9});
  expect_same(by_hand.weights(), by_call.weights());
  for (std::size_t epoch = 0; epoch < running.size(); ++epoch)
    EXPECT_EQ(run.epochs[epoch + 1].running->loss, running[epoch]);
  EXPECT_EQ(by_hand.updates(), by_call.updates());
}

// And with bare arithmetic, without a network.
TEST(training, gives_the_bits_of_bare_arithmetic) {
  const Split parts = parts_of("glazes", 200);
  Network net(Shape{5}, "dense 4, tanh, dense 4", Random(3));
  Tensor W = net["hidden.weight"];
  Tensor b = net["hidden.bias"];
  Tensor V = net["output.weight"];
  Tensor c = net["output.bias"];
  Random row_order = Random(1).branch("rows");
  for (int epoch = 1; epoch <= 2; ++epoch) {
    for (const Batch& batch : minibatches(parts.train, {.size = 16}, row_order)) {
      Worksheet sheet;
      const Line x = sheet.given("x", batch.features);
      const Line h = tanh(matmul(x, sheet.weight("W", W)) + sheet.weight("b", b));
      const Line z = matmul(h, sheet.weight("V", V)) + sheet.weight("c", c);
      const Gradients gradients = reverse_sweep(cross_entropy(z, sheet.given("y", batch.classes)));
      W = W - 0.1 * gradients["W"];
      b = b - 0.1 * gradients["b"];
      V = V - 0.1 * gradients["V"];
      c = c - 0.1 * gradients["c"];
    }
  }
  static_cast<void>(train(net, parts, {.rule = Descent{.rate = 0.1}, .epochs = 2}));
  EXPECT_EQ(net["hidden.weight"], W);
  EXPECT_EQ(net["hidden.bias"], b);
  EXPECT_EQ(net["output.weight"], V);
  EXPECT_EQ(net["output.bias"], c);
}

TEST(training, is_the_same_with_minibatches_from_another_thread) {
  const Split parts = parts_of("cracks", 200);
  Network here(Shape{2}, "dense 6, tanh, dense 1", Random(3));
  Network there = here;
  const RunRecord one = train(here, parts, {.epochs = 4, .batch = 7});
  const RunRecord other = train(there, parts, {.epochs = 4, .batch = 7, .ahead = 2});
  expect_same(one, other);
}

TEST(training, keeps_no_weights_as_the_best_whose_loss_is_no_number) {
  // Rows to learn from that overflow, and rows to watch that do not.
  Dataset kiln = demo_set("kiln", 20, 1);
  Split parts{.train = kiln, .validation = kiln};
  kiln.features.set({0, 0}, 1e300);
  kiln.targets.set({0, 0}, -1e300);
  parts.train = kiln;
  Network net(Shape{1}, "dense 1", Random(3));
  const RunRecord run = train(net, parts, {.epochs = 3});
  EXPECT_EQ(run.ending, Ending::diverged);
  EXPECT_FALSE(run.best) << "epoch " << run.best->epoch;
}

TEST(training, stops_early_and_keeps_the_best_weights) {
  const Split parts = parts_of("glazes", 120);
  Network net(Shape{5}, "dense 12, tanh, dense 4", Random(3));
  const RunRecord run = train(
      net, parts,
      {.rule = Adam{.rate = 0.1}, .epochs = 200, .batch = 8, .patience = 5, .keep_best = true});
  EXPECT_EQ(run.ending, Ending::stopped_early);
  EXPECT_LT(run.last_epoch(), 200);
  EXPECT_EQ(run.last_epoch(), run.best->epoch + 5);
  for (const EpochFigures& figures : run.epochs)
    EXPECT_GE(figures.validation->loss, run.best->loss);
  EXPECT_DOUBLE_EQ(assess(net, parts.validation).loss, run.best->loss);
}

TEST(training, reports_every_change_of_the_rate) {
  const Split parts = parts_of("kiln", 60);
  Network net(Shape{1}, "dense 1", Random(3));
  const RunRecord run =
      train(net, parts,
            {.rule = Descent{.rate = 0.08}, .epochs = 7, .schedule = Schedule::steps(3, 0.5)});
  ASSERT_EQ(run.rate_changes.size(), 2U);
  EXPECT_EQ(run.rate_changes[0].epoch, 4);
  EXPECT_EQ(run.rate_changes[0].before, 0.08);
  EXPECT_EQ(run.rate_changes[0].after, 0.04);
  EXPECT_EQ(run.rate_changes[1].epoch, 7);
  EXPECT_EQ(run.epochs[7].rate, 0.02);
}

TEST(training, tells_of_a_change_of_the_rate_before_the_epoch_with_it) {
  const Split parts = parts_of("kiln", 60);
  Network net(Shape{1}, "dense 1", Random(3));
  std::vector<std::string> told;
  TrainSettings settings{.rule = Descent{.rate = 0.08}, .epochs = 4};
  settings.schedule = Schedule::steps(1, 0.5).after_warm_up(2);
  settings.observer = [&](const EpochFigures& figures) {
    told.push_back(fmt::format("{}: {}", figures.epoch, figures.rate));
  };
  settings.rate_observer = [&](const RateChange& change) {
    told.push_back(fmt::format("{} to {} in {}", change.before, change.after, change.epoch));
  };
  static_cast<void>(train(net, parts, settings));
  // The first epoch of a warm-up changes nothing that was there before.
  EXPECT_THAT(told, ::testing::ElementsAre("0: 0.08", "1: 0.04", "0.04 to 0.08 in 2", "2: 0.08",
                                           "3: 0.08", "0.08 to 0.04 in 4", "4: 0.04"));
}

TEST(training, weighs_a_smaller_last_minibatch_by_its_rows) {
  const Dataset data{.name = "three",
                     .features = zeros(Shape{3, 1}),
                     .targets = tensor({{1}, {2}, {4}}).with({Role::example, Role::unit})};
  Network net(Shape{1}, "dense 1", Random(1));
  const RunRecord run =
      train(net, {.train = data}, {.rule = Descent{.rate = 1e-300}, .epochs = 1, .batch = 2});
  EXPECT_NEAR(run.epochs[1].running->loss, (1.0 + 4.0 + 16.0) / 6.0, 1e-12);
  EXPECT_FALSE(run.epochs[1].validation.has_value());
}

TEST(training, keeps_running_and_whole_figures_apart) {
  const Split parts = parts_of("glazes", 300);
  Network net(Shape{5}, "dense 8, tanh, dense 4", Random(3));
  const RunRecord run = train(net, parts, {.rule = Adam{.rate = 0.02}, .epochs = 2});
  EXPECT_FALSE(run.epochs[0].running.has_value());
  EXPECT_GT(run.epochs[1].running->loss, run.epochs[1].train->loss);
  EXPECT_DOUBLE_EQ(run.epochs[2].train->loss, assess(net, parts.train).loss);
  EXPECT_DOUBLE_EQ(*run.epochs[2].validation->accuracy,
                   assess(net, parts.validation).classes->accuracy);
}

TEST(training, evaluates_some_rows_of_the_train_part_or_none) {
  const Split parts = parts_of("glazes", 300);
  const TrainSettings all{.rule = Adam{.rate = 0.02}, .epochs = 3};
  TrainSettings some = all;
  some.judge_train = 20;
  TrainSettings none = all;
  none.judge_train = 0;
  Network net(Shape{5}, "dense 8, tanh, dense 4", Random(3));
  Network by_some = net;
  Network by_none = net;
  const RunRecord run = train(net, parts, all);
  const RunRecord of_some = train(by_some, parts, some);
  const RunRecord of_none = train(by_none, parts, none);
  // What is evaluated changes nothing that is learnt.
  expect_same(net.weights(), by_some.weights());
  expect_same(net.weights(), by_none.weights());

  const RowSet judged = judged_rows(parts.train, some);
  EXPECT_EQ(judged.count(), 20);
  EXPECT_THAT(parts.train.rows(), ::testing::IsSupersetOf(judged.rows()));
  EXPECT_EQ(judged.rows(), judged_rows(parts.train, some).rows());
  EXPECT_EQ(of_some.judged_train_rows, 20);
  EXPECT_DOUBLE_EQ(of_some.epochs[3].train->loss, assess(net, judged).loss);
  EXPECT_EQ(of_some.epochs[3].validation->loss, run.epochs[3].validation->loss);
  EXPECT_EQ(run.judged_train_rows, std::nullopt);
  // Gone on with all rows, the record says so.
  RunRecord further = of_some;
  go_on(by_some, further, parts, all);
  EXPECT_EQ(further.judged_train_rows, std::nullopt);
  EXPECT_DOUBLE_EQ(further.epochs.back().train->loss, assess(by_some, parts.train).loss);
  some.judge_train = 1000;
  EXPECT_EQ(judged_rows(parts.train, some).count(), parts.train.count());
  some.seed = 2;
  some.judge_train = 20;
  EXPECT_NE(judged.rows(), judged_rows(parts.train, some).rows());
  some.judge_train = -1;
  EXPECT_THROW(static_cast<void>(judged_rows(parts.train, some)), SettingError);

  EXPECT_EQ(of_none.judged_train_rows, 0);
  for (const EpochFigures& epoch : of_none.epochs)
    EXPECT_FALSE(epoch.train.has_value());
  EXPECT_EQ(of_none.best->epoch, run.best->epoch);
  // Without a validation part the running loss is what epochs are compared by.
  Network alone(Shape{5}, "dense 4", Random(3));
  const RunRecord bare = train(alone, {.train = parts.train}, none);
  EXPECT_TRUE(std::isinf(bare.epochs[0].watched()));
  EXPECT_EQ(bare.epochs[2].watched(), bare.epochs[2].running->loss);
  EXPECT_EQ(bare.best->epoch, 3);
}

TEST(training, tells_a_run_that_diverges_though_nothing_is_evaluated) {
  const Split parts = parts_of("shrinkage", 120, ScalingKind::none);
  const auto said_at = [&](double rate, const char* code) {
    Network net(Shape{3}, "dense 1", Random(3));
    const RunRecord run = train(net, {.train = parts.train},
                                {.rule = Descent{.rate = rate}, .epochs = 99, .judge_train = 0});
    EXPECT_EQ(run.ending, Ending::diverged);
    EXPECT_THAT(run.trouble, HasSubstr("step "));
    const std::vector<Remark> remarks = remarks_on(run, 0);
    const auto found = std::ranges::find(remarks, code, &Remark::code);
    return found == remarks.end() ? std::string("nothing") : found->text;
  };
  EXPECT_THAT(said_at(0.1, "rate-too-high"), HasSubstr("the running loss went from "));
  EXPECT_THAT(said_at(1e200, "rate-too-high"), HasSubstr("no longer finite within epoch 1"));
  EXPECT_THAT(said_at(0.1, "no-validation"), HasSubstr("epochs were compared by the running loss"));
}

TEST(training, records_confusion_matrices_when_asked) {
  const Split parts = parts_of("glazes", 300);
  Network net(Shape{5}, "dense 8, tanh, dense 4", Random(3));
  TrainSettings settings{.rule = Adam{.rate = 0.02}, .epochs = 4, .batch = 30, .judge_every = 3};
  settings.confusion = parse_moments("epochs 2, 4 and steps 1, 7");
  const RunRecord run = train(net, parts, settings);
  std::vector<std::int64_t> evaluated;
  for (const EpochFigures& epoch : run.epochs) {
    evaluated.push_back(epoch.epoch);
    EXPECT_EQ(epoch.validation->confusion.has_value(), epoch.epoch == 2 || epoch.epoch == 4);
    EXPECT_FALSE(epoch.train->confusion.has_value());
  }
  EXPECT_THAT(evaluated, ::testing::ElementsAre(0, 2, 3, 4));
  EXPECT_EQ(*run.epochs.back().validation->confusion,
            assess(net, parts.validation).classes->confusion);
  ASSERT_EQ(run.steps.size(), 2U);
  EXPECT_EQ(run.steps[1].step, 7);
  EXPECT_EQ(sum(*run.steps[1].watched->confusion).number(),
            static_cast<double>(parts.validation.count()));
  // Without a validation part they are of the train part.
  Network alone(Shape{5}, "dense 4", Random(3));
  EXPECT_TRUE(train(alone, {.train = parts.train}, settings).epochs[1].train->confusion);
  Network numbers(Shape{1}, "dense 1", Random(3));
  EXPECT_THAT(
      testing::said<SettingError>([&] { return train(numbers, parts_of("kiln", 60), settings); }),
      HasSubstr("a confusion matrix needs classes"));
}

TEST(training, times_epochs_and_evaluations_apart) {
  const Split parts = parts_of("glazes", 300);
  Network net(Shape{5}, "dense 8, tanh, dense 4", Random(3));
  const RunRecord run = train(net, parts, {.epochs = 4, .judge_every = 2});
  double learning = 0.0;
  double judging = 0.0;
  for (const EpochFigures& epoch : run.epochs) {
    EXPECT_EQ(epoch.learning_seconds > 0.0, epoch.epoch > 0);
    EXPECT_GT(epoch.judging_seconds, 0.0);
    learning += 2.0 * epoch.learning_seconds;
    judging += epoch.judging_seconds;
  }
  EXPECT_DOUBLE_EQ(run.judged, judging);
  EXPECT_LE(learning + judging, run.seconds);
}

TEST(training, judges_minibatches_as_they_come_and_the_validation_part_between_steps) {
  const Split parts = parts_of("glazes", 300);
  Network net(Shape{5}, "dense 8, tanh, dense 4", Random(3));
  const TrainSettings settings{
      .rule = Adam{.rate = 0.02}, .epochs = 2, .batch = 25, .judge_steps = 5, .steps_every = 2};
  Network again = net;
  const RunRecord run = train(net, parts, settings);
  std::vector<std::int64_t> steps;
  for (const StepFigures& step : run.steps) {
    steps.push_back(step.step);
    EXPECT_EQ(step.watched.has_value(), step.step % 5 == 0);
  }
  EXPECT_THAT(steps, ::testing::ElementsAre(2, 4, 5, 6, 8, 10, 12, 14, 15, 16));
  // The same by looking in between: the minibatch before its step, the part after it.
  Training by_hand(again, parts, {.rule = Adam{.rate = 0.02}, .epochs = 2, .batch = 25});
  double right = 0.0;
  for (std::int64_t step = 1; step <= 5; ++step) {
    const RowSet minibatch(parts.data(), by_hand.upcoming().rows);
    const Assessment before = assess(again, minibatch);
    right += before.classes->accuracy * 25.0;
    by_hand.step();
    EXPECT_DOUBLE_EQ(*by_hand.running().accuracy, right / (25.0 * static_cast<double>(step)));
    if (step != 5) continue;
    EXPECT_DOUBLE_EQ(run.steps[2].minibatch.loss, before.loss);
    EXPECT_DOUBLE_EQ(*run.steps[2].minibatch.accuracy, before.classes->accuracy);
    EXPECT_DOUBLE_EQ(run.steps[2].watched->loss, assess(again, parts.validation).loss);
    EXPECT_DOUBLE_EQ(*run.steps[2].watched->accuracy,
                     assess(again, parts.validation).classes->accuracy);
  }
  EXPECT_EQ(by_hand.running().accuracy.has_value(), true);
  // Without a validation part it is the train part; numbers have no accuracy.
  Network line(Shape{1}, "dense 1", Random(3));
  const Split kiln{.train = parts_of("kiln", 40).train};
  const RunRecord of_numbers = train(line, kiln, {.epochs = 1, .batch = 8, .judge_steps = 3});
  ASSERT_EQ(of_numbers.steps.size(), 1U);
  EXPECT_GT(of_numbers.steps[0].watched->loss, 0.0);
  EXPECT_FALSE(of_numbers.steps[0].minibatch.accuracy.has_value());
  EXPECT_FALSE(of_numbers.epochs[1].running->accuracy.has_value());
}

TEST(training, weighs_the_running_accuracy_by_rows) {
  Network net(Shape{1}, "dense 2", Random(1));
  net.set("output.weight", tensor({{1.0, -1.0}}));
  // In use 0 is answered for what is above 0: the first minibatch is right, the second of one
  // wrong.
  const Dataset data = dataset_of_classes(tensor({{1}, {2}, {3}}), tensor({0, 0, 1}));
  const RunRecord run =
      train(net, {.train = data}, {.rule = Descent{.rate = 1e-300}, .epochs = 1, .batch = 2});
  EXPECT_DOUBLE_EQ(*run.epochs[1].running->accuracy, 2.0 / 3.0);
}

TEST(training, lasts_as_many_updates_as_are_asked_for) {
  const Split parts = parts_of("kiln", 60);
  const auto run_of = [&](const TrainSettings& settings) {
    Network net(Shape{1}, "dense 1", Random(3));
    return train(net, parts, settings);
  };
  const RunRecord epochs = run_of({.epochs = 3, .batch = 6});
  ASSERT_EQ(epochs.updates, 18);
  EXPECT_EQ(epochs.epochs[2].updates, 12);
  // The same steps, wherever an epoch ends.
  const RunRecord whole = run_of({.updates = 18, .batch = 6});
  EXPECT_EQ(whole.ending, Ending::all_updates);
  EXPECT_EQ(whole.epochs.size(), epochs.epochs.size());
  EXPECT_EQ(whole.epochs.back().train->loss, epochs.epochs.back().train->loss);
  const RunRecord in_the_midst = run_of({.updates = 14, .batch = 6, .judge_every = 9});
  EXPECT_EQ(in_the_midst.ending, Ending::all_updates);
  EXPECT_EQ(in_the_midst.updates, 14);
  ASSERT_EQ(in_the_midst.epochs.size(), 2U) << "the end is judged";
  EXPECT_EQ(in_the_midst.epochs.back().epoch, 3);
  EXPECT_EQ(in_the_midst.epochs.back().updates, 14);
  EXPECT_TRUE(in_the_midst.epochs.back().running.has_value());
  // More than the usual epochs hold, and more of it.
  EXPECT_EQ(run_of({.epochs = 1, .updates = 20, .batch = 6}).updates, 20);
  Network net(Shape{1}, "dense 1", Random(3));
  RunRecord run = train(net, parts, {.updates = 6, .batch = 6});
  go_on(net, run, parts, {.updates = 12, .batch = 6});
  EXPECT_EQ(run.updates, 18);
  EXPECT_EQ(run.epochs.back().train->loss, epochs.epochs.back().train->loss);
  EXPECT_THROW(static_cast<void>(run_of({.updates = 0})), SettingError);
  EXPECT_THROW(static_cast<void>(run_of({.judge_steps = -1})), SettingError);
}

TEST(training, tells_observers_and_stops_when_asked) {
  const Split parts = parts_of("kiln", 60);
  std::vector<std::int64_t> epochs;
  std::vector<std::int64_t> steps;
  TrainSettings settings{.epochs = 4, .batch = 6, .judge_every = 2, .steps_every = 5};
  settings.observer = [&](const EpochFigures& figures) { epochs.push_back(figures.epoch); };
  settings.step_observer = [&](const StepFigures& figures) { steps.push_back(figures.step); };
  Network net(Shape{1}, "dense 1", Random(3));
  const RunRecord run = train(net, parts, settings);
  EXPECT_THAT(epochs, ::testing::ElementsAre(0, 2, 4));
  EXPECT_THAT(steps, ::testing::ElementsAre(5, 10, 15, 20));
  EXPECT_EQ(run.steps[1].epoch, 2);

  settings.should_stop = [&] { return steps.size() > 5; };
  Network other(Shape{1}, "dense 1", Random(3));
  const RunRecord stopped = train(other, parts, settings);
  EXPECT_EQ(stopped.ending, Ending::asked);
  EXPECT_EQ(stopped.updates, 10);
  EXPECT_EQ(other.updates(), 10);
}

TEST(training, ends_with_the_best_weights_when_the_loss_is_no_longer_a_number) {
  const Split parts = parts_of("shrinkage", 120, ScalingKind::none);
  Network net(Shape{3}, "dense 1", Random(3));
  const RunRecord run = train(net, parts, {.rule = Descent{.rate = 0.1}, .epochs = 99});
  EXPECT_EQ(run.ending, Ending::diverged);
  EXPECT_THAT(run.trouble, HasSubstr("step "));
  EXPECT_THAT(run.trouble, HasSubstr("a smaller rate than 0.1"));
  expect_same(net.weights(), run.best->weights);
  for (const Weight& weight : net.weights()) {
    for (const double number : weight.value.numbers())
      EXPECT_TRUE(std::isfinite(number));
  }
  RunRecord again = run;
  EXPECT_THROW(go_on(net, again, parts, {.epochs = 1}), SettingError);
}

TEST(training, refuses_impossible_settings) {
  const Split parts = parts_of("glazes", 100);
  const auto expect_refused = [&](const TrainSettings& settings) {
    Network net(Shape{5}, "dense 4", Random(3));
    EXPECT_THROW(static_cast<void>(train(net, parts, settings)), SettingError);
  };
  expect_refused({.epochs = -1});
  expect_refused({.batch = 0});
  expect_refused({.batch = 61});
  expect_refused({.rule = Descent{.rate = -1}});
  expect_refused({.l2 = -1});
  expect_refused({.clip_norm = 0.0});
  expect_refused({.patience = 0});
  expect_refused({.judge_every = 0});
  expect_refused({.judge_train = -1});
  expect_refused({.loss = Loss::binary_cross_entropy});
  Network net(Shape{5}, "dense 3", Random(3));
  EXPECT_THROW(static_cast<void>(train(net, parts, {})), ShapeError);
}

TEST(training, takes_the_seed_at_its_word) {
  const Split parts = parts_of("cracks", 200);
  const auto weights = [&](std::uint64_t seed) {
    Network net(Shape{2}, "dense 4, tanh, dense 1", Random(1));
    static_cast<void>(train(net, parts, {.epochs = 3, .seed = seed}));
    return net["hidden.weight"];
  };
  EXPECT_EQ(weights(1), weights(1));
  EXPECT_FALSE(weights(1) == weights(2));
}

// What the demo sets promise of good networks.
TEST(training, tells_glazes_apart_with_84_weights) {
  Random random(1);
  const Split parts =
      scaled(split(demo_set("glazes"), {.stratified = true}, random), ScalingKind::standard);
  for (std::uint64_t seed = 1; seed <= 5; ++seed) {
    Network net(Shape{5}, "dense 8, tanh, dense 4", Random(seed));
    EXPECT_EQ(net.plan().weights(), 84);
    static_cast<void>(train(net, parts, {.rule = Adam{.rate = 0.01}, .epochs = 40, .seed = seed}));
    EXPECT_GE(assess(net, parts.test).classes->accuracy, 0.93) << seed;
  }
}

TEST(training, bends_a_border_around_cracks_where_a_straight_one_fails) {
  Random random(1);
  const Split parts =
      scaled(split(demo_set("cracks"), {.stratified = true}, random), ScalingKind::standard);
  Network straight(Shape{2}, "dense 1", Random(1));
  static_cast<void>(train(straight, parts, {.rule = Adam{.rate = 0.02}, .epochs = 60}));
  EXPECT_LT(assess(straight, parts.test).classes->accuracy, 0.85);
  for (std::uint64_t seed = 1; seed <= 3; ++seed) {
    Network bent(Shape{2}, "dense 8, tanh, dense 1", Random(seed));
    EXPECT_EQ(bent.plan().weights(), 33);
    static_cast<void>(train(bent, parts, {.rule = Adam{.rate = 0.02}, .epochs = 60, .seed = seed}));
    EXPECT_GE(assess(bent, parts.test).classes->accuracy, 0.92) << seed;
  }
}

TEST(rows_of_step, are_those_that_a_run_trains_on_without_a_network) {
  const Split parts = parts_of("glazes", 100);
  for (const RowOrder order :
       {RowOrder::shuffled_each_epoch, RowOrder::shuffled_once, RowOrder::as_in_the_data}) {
    const TrainSettings settings{.epochs = 3, .batch = 13, .order = order, .seed = 5};
    Network net(Shape{5}, "dense 4", Random(3));
    Training run(net, parts, settings);
    for (std::int64_t step = 1; run.goes_on(); ++step) {
      const StepRows found = rows_of_step(parts, settings, step);
      EXPECT_EQ(found.rows, run.upcoming().rows) << step;
      EXPECT_EQ(found.epoch, run.upcoming_epoch()) << step;
      run.step();
    }
    EXPECT_THROW(static_cast<void>(rows_of_step(parts, settings, 16)), SettingError);
    EXPECT_THROW(static_cast<void>(rows_of_step(parts, settings, 0)), SettingError);
  }
  EXPECT_THROW(static_cast<void>(rows_of_step(parts, {.epochs = 0}, 1)), SettingError);
}

TEST(training, takes_rows_without_a_split) {
  const Dataset data = demo_set("glazes", 60, 1);
  const auto weights = [&](const auto& rows) {
    Network net(Shape{5}, "dense 4", Random(3));
    const RunRecord run = train(net, rows, {.epochs = 3});
    EXPECT_FALSE(run.epochs.back().validation.has_value());
    EXPECT_EQ(run.updates, 3 * 4);
    return net["output.weight"];
  };
  EXPECT_EQ(weights(data), weights(Split{.train = data}));
  EXPECT_EQ(weights(RowSet(data)), weights(data));
}

}  // namespace
}  // namespace lattice
