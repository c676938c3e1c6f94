#include "lattice/learning/training.hpp"

#include <fmt/format.h>

#include <chrono>
#include <cmath>

#include "lattice/tensor/error.hpp"
#include "lattice/worksheet/watch.hpp"

namespace lattice {
namespace {

/// Why the cost of a worksheet is no number: the first line where that began.
NumberError no_longer_a_number(const Worksheet& sheet, double cost, std::int64_t epoch,
                               std::int64_t step, double rate) {
  const std::optional<Alarm> alarm = watch(sheet);
  return NumberError(
      {.what = "training was stopped: the cost has grown beyond all numbers",
       .where = fmt::format("epoch {}, minibatch {} of it{}", epoch, step,
                            alarm ? "; " + alarm->place() : ""),
       .expected = "a cost that falls",
       .found = format_number(cost),
       .remedy = fmt::format("a smaller rate than {}, or features of like size: scale them",
                             format_number(rate))});
}

}  // namespace

RunRecord train(LinearModel& model, const Dataset& data, const TrainSettings& settings,
                Random& random) {
  settings.rule.check();
  if (settings.epochs < 1) {
    throw SettingError({.what = fmt::format("{} epochs of training", settings.epochs),
                        .expected = "1 epoch or more",
                        .found = fmt::format("{}", settings.epochs)});
  }
  const auto start = std::chrono::steady_clock::now();
  Dataset seen = data;
  if (model.scaling) seen.features = model.scaling->scaled(data.features);
  const Batch whole = all_rows(seen);
  RunRecord run;
  const auto report = [&](const EpochFigures& figures) {
    run.epochs.push_back(figures);
    if (settings.observer) settings.observer(figures);
  };
  const auto whole_cost = [&](Worksheet& sheet) {
    return model.write_down_briefly(sheet, whole).value().number();
  };
  Worksheet at_first;
  report({.epoch = 0, .running_cost = NAN, .whole_cost = whole_cost(at_first)});

  for (std::int64_t epoch = 1; epoch <= settings.epochs; ++epoch) {
    const Weights at_start = model.weights;
    double total = 0.0;
    std::int64_t step = 0;
    const auto check = [&](const Worksheet& sheet, double cost) {
      if (std::isfinite(cost)) return;
      model.weights = at_start;
      throw no_longer_a_number(sheet, cost, epoch, step, settings.rule.rate);
    };
    for (const Batch& batch : minibatches(seen, {.size = settings.batch}, random)) {
      ++step;
      Worksheet sheet;
      const Line cost = model.write_down_briefly(sheet, batch);
      check(sheet, cost.value().number());
      total += cost.value().number() * static_cast<double>(batch.rows.size());
      settings.rule.update(model.weights, reverse_sweep(cost));
    }
    Worksheet sheet;
    const double cost = whole_cost(sheet);
    check(sheet, cost);
    report({.epoch = epoch,
            .running_cost = total / static_cast<double>(data.rows()),
            .whole_cost = cost});
  }
  const std::chrono::duration<double> seconds = std::chrono::steady_clock::now() - start;
  run.seconds = seconds.count();
  return run;
}

}  // namespace lattice
