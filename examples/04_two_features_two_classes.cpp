// Lesson 4: two features, two classes.
//
// Pots that crack and pots that stay sound, told apart by two measurements. First with a loop
// written by hand: minibatch, forward, loss, reverse sweep, update. Then in one call. Both give the
// same bits.

#include <fmt/core.h>

#include "lattice/lattice.hpp"

using namespace lattice;

namespace {

constexpr int epochs = 40;

/// The share of rows that the network gets right.
double share_right(const Network& net, const RowSet& rows) {
  return assess(net, rows).classes->accuracy;
}

/// The loop, as one writes it.
void learn_by_hand(Network& net, const Split& dealt, Random row_order) {
  Adam rule{.rate = 0.02};
  for (int epoch = 1; epoch <= epochs; ++epoch) {
    double total = 0.0;
    for (const Batch& batch : minibatches(dealt.train, {.size = 16}, row_order)) {
      Worksheet sheet;
      const Line x = sheet.given("x", batch.features);
      const Line score = net.forward(sheet, x);
      const Line label = reshape(sheet.given("y", batch.classes), score.shape());
      const Line loss = binary_cross_entropy(score, label);
      update(rule, net, reverse_sweep(loss));
      total += loss.value().number() * static_cast<double>(batch.rows.size());
    }
    if (epoch % 10 == 0) {
      fmt::print("  epoch {:>2}: running loss {:.4f}, validation accuracy {:.3f}\n", epoch,
                 total / static_cast<double>(dealt.train.count()),
                 share_right(net, dealt.validation));
    }
  }
}

}  // namespace

int main() {
  const Dataset pots = demo_set("cracks");
  Random dealing(1);
  const Split dealt = scaled(split(pots, {.stratified = true}, dealing), ScalingKind::standard);
  fmt::print("{} pots: {} to learn from, {} to watch, {} for the end\n", pots.rows(),
             dealt.train.count(), dealt.validation.count(), dealt.test.count());

  // A straight border first. Half the band of sound pots lies on its wrong side.
  Network straight(Shape{2}, "dense 1", Random(1));
  static_cast<void>(train(straight, dealt, {.rule = Adam{.rate = 0.02}, .epochs = epochs}));
  fmt::print("\nA straight border: test accuracy {:.3f}\n", share_right(straight, dealt.test));

  // Eight units between, and the border can bend.
  Network by_hand(Shape{2}, {Dense{.outputs = 8}, Tanh{}, Dense{.outputs = 1}}, Random(1));
  Network by_call = by_hand;
  fmt::print("\nA bent border, {} weights, learnt by hand:\n", by_hand.plan().weights());
  learn_by_hand(by_hand, dealt, Random(5).branch("rows"));
  fmt::print("  test accuracy {:.3f}; the best possible is about 0.95\n",
             share_right(by_hand, dealt.test));

  const RunRecord run =
      train(by_call, dealt, {.rule = Adam{.rate = 0.02}, .epochs = epochs, .batch = 16, .seed = 5});
  fmt::print("\nThe same in one call: running loss {:.4f}, test accuracy {:.3f}\n",
             run.epochs.back().running->loss, share_right(by_call, dealt.test));
  bool same = true;
  for (const Weight& weight : by_hand.weights())
    same = same && weight.value == by_call[weight.name];
  fmt::print("Every weight has the same bits: {}\n", same ? "yes" : "no");
}
