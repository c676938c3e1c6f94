#include "tools/run_time.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <nlohmann/json.hpp>
#include <vector>

#include "lattice/learning/training.hpp"
#include "lattice/tensor/threads.hpp"
#include "lattice/text/numbers.hpp"
#include "lattice/text/wrapping.hpp"
#include "text/clock.hpp"
#include "text/counted.hpp"

namespace lattice::tools {
namespace {

/// So many seconds, and so many steps, are enough to know how long one takes.
constexpr double enough_seconds = 2.0;
constexpr std::size_t enough_steps = 200;

/// So many rows are enough to know how long one takes to evaluate.
constexpr std::int64_t enough_rows = 256;

/// The first rows of a set; all of them where its rows are connected, since no fewer are evaluated.
RowSet some_of(const RowSet& rows) {
  if (rows.data().is_connected() || rows.count() <= enough_rows) return rows;
  std::vector<std::int64_t> places;
  for (std::int64_t place = 0; place < enough_rows; ++place)
    places.push_back(place);
  return rows.taking(places);
}

double median_of(std::vector<double> seconds) {
  const auto middle = seconds.begin() + std::ssize(seconds) / 2;
  std::ranges::nth_element(seconds, middle);
  return *middle;
}

/// The seconds of single steps; the first one, which takes memory for those that follow, is left
/// out where there are others.
std::vector<double> seconds_of_steps(Training& training) {
  std::vector<double> seconds;
  const double start = seconds_now();
  const auto is_enough = [&] {
    return seconds.size() >= 4 &&
           (seconds.size() >= enough_steps || seconds_now() - start >= enough_seconds);
  };
  for (double before = training.learning_seconds(); !is_enough() && training.step();) {
    const double now = training.learning_seconds();
    seconds.push_back(now - before);
    before = now;
  }
  if (seconds.size() > 1) seconds.erase(seconds.begin());
  return seconds;
}

/// `210 µs`, `35 ms`, `4.2 s`, `3 min 20 s`.
std::string duration(double seconds) {
  constexpr double microseconds = 1e6;
  constexpr double milliseconds = 1e3;
  if (seconds < 1e-3) return format_number(microseconds * seconds, 2) + " µs";
  if (seconds < 1.0) return format_number(milliseconds * seconds, 2) + " ms";
  return seconds < 10.0 ? fmt::format("{:.1f} s", seconds) : time_text(seconds);
}

}  // namespace

std::string time_text(double seconds) {
  const auto all = std::llround(seconds);
  if (all < 60) return fmt::format("{} s", all);
  if (all < 3600) return fmt::format("{} min {} s", all / 60, all % 60);
  return fmt::format("{} h {} min", all / 3600, all % 3600 / 60);
}

RunTime time_of(const Prepared& prepared) {
  const TrainSettings& run = prepared.training;
  const RowSet judged = judged_rows(prepared.split.train, run);
  const std::int64_t rows = prepared.split.train.count();
  RunTime time{.evaluated = judged.count() + prepared.split.validation.count(),
               .batch = run.batch,
               .steps_in_epoch = (rows + run.batch - 1) / run.batch,
               .threads = Threads::allowed()};
  time.steps = run.updates.value_or(run.epochs * time.steps_in_epoch);
  time.epochs = (time.steps + time.steps_in_epoch - 1) / time.steps_in_epoch;
  time.evaluations += (time.epochs + run.judge_every - 1) / run.judge_every;

  // A run like it that evaluates few rows, and those but once.
  Split few = prepared.split;
  few.validation = some_of(prepared.split.validation);
  TrainSettings settings = run;
  settings.epochs = most_counted;
  settings.updates.reset();
  settings.patience.reset();
  settings.judge_every = most_counted;
  settings.judge_steps = 0;
  settings.judge_train = some_of(judged).count();
  settings.confusion = {};
  settings.flow_every = 0;
  settings.observer = nullptr;
  Network network = prepared.network;
  Training training(network, few, settings);
  const std::int64_t evaluated = *settings.judge_train + few.validation.count();
  if (evaluated > 0) {
    time.evaluation = training.judging_seconds() * static_cast<double>(time.evaluated) /
                      static_cast<double>(evaluated);
  }
  if (time.steps == 0) return time;
  const std::vector<double> seconds = seconds_of_steps(training);
  time.measured = std::ssize(seconds);
  if (!seconds.empty()) time.step = median_of(seconds);
  return time;
}

std::string told(const RunTime& time, std::size_t width) {
  const std::string evaluation =
      time.evaluated == 0 ? "nothing is evaluated"
                          : fmt::format("an evaluation of {} {}", counted(time.evaluated, "row"),
                                        duration(time.evaluation));
  const std::string threads = counted(time.threads, "thread");
  if (time.measured == 0)
    return paragraph(fmt::format("Time with up to {}: {}.", threads, evaluation), width);
  return paragraph(
      fmt::format("Time with up to {}: a step of {} takes {} (the median of {}), an epoch of {} "
                  "{}, and {}; the run of {} takes about {}.",
                  threads, counted(time.batch, "row"), duration(time.step), time.measured,
                  counted(time.steps_in_epoch, "step"), duration(time.epoch()), evaluation,
                  counted(time.epochs, "epoch"), duration(time.run())),
      width);
}

Json to_json(const RunTime& time) {
  return {{"threads", time.threads},
          {"measured_steps", time.measured},
          {"step", time.step},
          {"epoch", time.epoch()},
          {"evaluation", time.evaluation},
          {"evaluated_rows", time.evaluated},
          {"steps", time.steps},
          {"epochs", time.epochs},
          {"evaluations", time.evaluations},
          {"run", time.run()}};
}

}  // namespace lattice::tools
