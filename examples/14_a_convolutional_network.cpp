// Lesson 14: a convolutional network, by a loop and by a call.
//
// Kernels find the same mark wherever it was pressed; a softmax on pixels has to learn it for each
// place. Here the same network learns twice, in a loop that one writes and in one call, to the same
// last bit, and is judged on pictures that it has never seen, beside the softmax.

#include <fmt/core.h>

#include <algorithm>

#include "lattice/lattice.hpp"

using namespace lattice;

int main() {
  Random dealing(1);
  const Split parts = prepared(split(demo_set("stamps"), {.stratified = true}, dealing),
                               {ScalingSettings{.by = ScaledBy::channel}});
  const Shape example = parts.data().example();
  const std::string blueprint =
      "conv 8 of 3x3, relu, maximum 2, conv 12 of 3x3, relu, flatten, dense 8";
  constexpr int epochs = 12;

  // By a loop: the order of rows has random numbers of its own, as in training.
  Network by_loop(example, blueprint, Random(2));
  Adam rule{.rate = 0.005};
  Random order = Random(1).branch("rows");
  for (int epoch = 1; epoch <= epochs; ++epoch) {
    for (const Batch& batch : minibatches(parts.train, {.size = 16}, order)) {
      Worksheet sheet;
      const Line scores = by_loop.forward(sheet, sheet.given("x", batch.features));
      const Line loss = cross_entropy(scores, sheet.given("y", batch.classes));
      update(rule, by_loop, reverse_sweep(loss));
    }
  }

  // By a call.
  Network by_call(example, blueprint, Random(2));
  const RunRecord run = train(
      by_call, parts, {.rule = Adam{.rate = 0.005}, .epochs = epochs, .batch = 16, .seed = 1});

  Network softmax_alone(example, "flatten, dense 8", Random(2));
  static_cast<void>(train(softmax_alone, parts,
                          {.rule = Adam{.rate = 0.005}, .epochs = 30, .batch = 16, .seed = 1}));

  double apart = 0.0;
  for (const Weight& weight : by_loop.weights())
    apart = std::max(apart, distance(weight.value, by_call[weight.name]).largest);
  fmt::print("{} updates; the two are apart by {}\n\n", run.updates, apart);
  fmt::print("accuracy on the test part\n");
  const auto judged = [&](const Network& network) { return assess(network, parts.test).figure(); };
  fmt::print("softmax on pixels       {:.4f}\n", judged(softmax_alone));
  fmt::print("convolutional network   {:.4f}\n", judged(by_call));
}
