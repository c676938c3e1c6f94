// Lesson 7: all rows, some, or one.
//
// One update from the whole set, from minibatches of 16, or from a single example: the same rows,
// the same start and the same rate, five epochs each. How far the loss comes, and how straight.

#include <fmt/core.h>

#include <cmath>

#include "lattice/lattice.hpp"

using namespace lattice;

namespace {

struct Way {
  const char* name;
  std::int64_t rows;
};

/// How often the loss of one step was above that of the step before.
double share_of_steps_up(const RunRecord& run) {
  int up = 0;
  for (std::size_t at = 1; at < run.steps.size(); ++at)
    up += run.steps[at].minibatch.loss > run.steps[at - 1].minibatch.loss ? 1 : 0;
  return static_cast<double>(up) / static_cast<double>(run.steps.size() - 1);
}

}  // namespace

int main() {
  Random dealing(1);
  const Split dealt = scaled(split(demo_set("glazes", 400, 1), {.stratified = true}, dealing),
                             ScalingKind::standard);
  const Network start(Shape{5}, "dense 8, tanh, dense 4", Random(1));
  const std::int64_t rows = dealt.train.count();

  const std::vector<Way> ways = {
      {"the whole set", rows}, {"minibatches of 16", 16}, {"one by one", 1}};
  fmt::print("Plain descent at rate 0.05 on {} rows, loss of all of them after each epoch\n\n",
             rows);
  fmt::print("  {:<18} {:>8}", "an update from", "updates");
  for (int epoch = 0; epoch <= 5; ++epoch)
    fmt::print(" {:>8}", fmt::format("epoch {}", epoch));
  fmt::print("   steps up\n");
  for (const Way& way : ways) {
    Network net = start;
    const RunRecord run =
        train(net, dealt,
              {.rule = Descent{.rate = 0.05}, .epochs = 5, .batch = way.rows, .steps_every = 1});
    fmt::print("  {:<18} {:>8}", way.name, run.updates);
    for (const EpochFigures& figures : run.epochs)
      fmt::print(" {:>8.4f}", figures.train->loss);
    fmt::print(" {:>8.0f} %\n", 100.0 * share_of_steps_up(run));
  }
  fmt::print(
      "\nThe whole set gives the truest slope and one step an epoch; a single example gives a "
      "rough\n"
      "one and {} steps. Minibatches lie between, and cost hardly more than the whole set, since\n"
      "16 rows are multiplied at once.\n",
      rows);

  // A true slope allows a longer step.
  fmt::print("\nThe whole set at other rates, 5 and 100 epochs:\n");
  for (const double rate : {0.05, 0.5, 2.0}) {
    Network net = start;
    const RunRecord run =
        train(net, dealt, {.rule = Descent{.rate = rate}, .epochs = 100, .batch = rows});
    fmt::print("  rate {:<4}  {:.4f}  {:.4f}\n", rate, run.epochs[5].train->loss,
               run.epochs.back().train->loss);
  }
}
