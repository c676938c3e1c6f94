// Lesson 17: a graph is one more matrix product.
//
// Potters share kilns, and of each guild two are known. What each takes from each is a matrix: who
// is joined with whom and with herself, scaled by the root of both degrees. First nothing is learnt
// at all: known guilds are passed on along the edges, product by product. Then a network of two
// layers learns, by hand: its way back is that of the dense network the class knows, but for what a
// layer remembers of its input, shares·x instead of x, and hands on along the same edges.

#include <fmt/core.h>
#include <fmt/ranges.h>

#include <vector>

#include "lattice/lattice.hpp"

using namespace lattice;

/// How many of the potters that nobody told are given their guild by some scores [node × class].
double share_right(const Dataset& studios, const Tensor& scores) {
  double right = 0.0;
  double asked = 0.0;
  const Tensor answers = argmax(scores);
  for (std::int64_t node = 0; node < studios.rows(); ++node) {
    if (studios.is_known(node)) continue;
    asked += 1.0;
    right += answers.at({node}) == studios.classes.at({node}) ? 1.0 : 0.0;
  }
  return right / asked;
}

/// Passes the guilds that are known on, and asks where what reaches one potter comes from.
void pass_on(const Dataset& studios, const Tensor& shares) {
  Tensor known = zeros({studios.rows(), 4});
  for (const std::int64_t node : studios.known)
    known.set({node, static_cast<std::int64_t>(studios.classes.at({node}))}, 1.0);

  fmt::print("Nothing learnt: known guilds passed on\n");
  Tensor reached = known;
  for (int products = 0; products <= 4; ++products) {
    fmt::print("  {} products: share of the others right {:.3f}\n", products,
               share_right(studios, reached));
    reached = matmul(shares, reached);
  }

  // One whom her kilns mislead.
  const std::int64_t mina = node_called(studios, "Mina");
  const Tensor twice = matmul(shares, shares);
  fmt::print("\nWhat reaches Mina, of {}, in two products, and from whom:\n",
             studios.class_name(static_cast<std::int64_t>(studios.classes.at({mina}))));
  for (const std::int64_t node : studios.known) {
    if (twice.at({mina, node}) == 0.0) continue;
    fmt::print("  {:.4f} from {}, {}\n", twice.at({mina, node}), studios.row_name(node),
               studios.class_name(static_cast<std::int64_t>(studios.classes.at({node}))));
  }
}

/// Two layers by hand, and the gradients of both as they are derived on paper.
struct ByHand {
  Tensor loss;
  Tensor dW1;
  Tensor dW2;
};

ByHand by_hand(const Dataset& studios, const Tensor& shares, const Tensor& x, const Tensor& W1,
               const Tensor& W2) {
  const double count = static_cast<double>(studios.known.size());
  Tensor counts = zeros({studios.rows(), 1});
  for (const std::int64_t node : studios.known)
    counts.set({node, 0}, 1.0 / count);

  // Forward. Each layer remembers what came in: here shares·x and shares·h.
  const Tensor in1 = matmul(shares, x);
  const Tensor h = tanh(matmul(in1, W1));
  const Tensor in2 = matmul(shares, h);
  const Tensor scores = matmul(in2, W2);
  const Tensor truth = one_hot(studios.classes, 4);
  const Tensor loss = sum(counts * sum(-log_softmax(scores) * truth, {.axes = {1}, .keep = true}));

  // Back, as in the dense network: the error, the weights it meets, the slope of tanh.
  const Tensor error = counts * (softmax(scores) - truth);
  const Tensor dW2 = matmul(in2, error, {.first = true});
  const Tensor dh = matmul(shares, matmul(error, W2, {.second = true}), {.first = true});
  const Tensor dW1 = matmul(in1, dh * (1.0 - square(h)), {.first = true});
  return {loss, dW1, dW2};
}

/// The same by the engine.
Gradients by_engine(const Dataset& studios, const Tensor& shares, const Tensor& x, const Tensor& W1,
                    const Tensor& W2) {
  Worksheet sheet;
  const Line S = sheet.given("shares", shares);
  const Line h = tanh(matmul(matmul(S, sheet.given("x", x)), sheet.weight("W1", W1)));
  const Line scores = matmul(matmul(S, h), sheet.weight("W2", W2));
  Tensor counted = zeros({studios.rows()});
  for (const std::int64_t node : studios.known)
    counted.set({node}, 1.0);
  return reverse_sweep(cross_entropy(scores, sheet.given("y", studios.classes),
                                     {.row_weights = sheet.given("counted", counted)}));
}

int main() {
  const Dataset studios = demo_set("studios");
  const Tensor shares = normalised_adjacency(*adjacency_of(studios));
  fmt::print("{} potters, {} edges, {} known; Ada takes from", studios.rows(),
             edges_of(studios).size(), studios.known.size());
  for (const std::int64_t other : stored_along(shares, 1, 0))
    fmt::print(" {} {:.3f}", studios.row_name(other), shares.at({0, other}));
  fmt::print("\n\n");
  pass_on(studios, shares);

  // Every potter is her own feature.
  const Tensor x = studios.features.all();
  Random random(1);
  Tensor W1 = uniform({48, 16}, -0.3, 0.3, random);
  Tensor W2 = uniform({16, 4}, -0.5, 0.5, random);
  const ByHand first = by_hand(studios, shares, x, W1, W2);
  const Gradients engine = by_engine(studios, shares, x, W1, W2);
  fmt::print("\nBy hand and by the engine\n∂W1 {}\n∂W2 {}\n", agreement(first.dW1, engine["W1"]),
             agreement(first.dW2, engine["W2"]));

  fmt::print("\nDescent by hand\n");
  for (int step = 0; step <= 200; ++step) {
    const ByHand now = by_hand(studios, shares, x, W1, W2);
    if (step % 50 == 0) {
      const Tensor scores = matmul(matmul(shares, tanh(matmul(matmul(shares, x), W1))), W2);
      fmt::print("  step {:3}: loss {:.4f}, share of the others right {:.3f}\n", step,
                 now.loss.number(), share_right(studios, scores));
    }
    W1 = W1 - 2.0 * now.dW1;
    W2 = W2 - 2.0 * now.dW2;
  }

  fmt::print("\nTen starts, with neighbours and without\n");
  for (const char* net : {"neighbours, dense 16 without bias, tanh, neighbours, dense 4",
                          "dense 16 without bias, tanh, dense 4"}) {
    std::vector<double> told;
    for (std::uint64_t seed = 1; seed <= 10; ++seed) {
      Random dealing(seed);
      const Split parts = split(studios, {}, dealing);
      Network network(studios.example(), net, Random(seed));
      static_cast<void>(train(network, parts, {.rule = Adam{.rate = 0.02}, .epochs = 100}));
      told.push_back(assess(network, parts.test).classes->accuracy);
    }
    fmt::print("  {}\n    {:.3f}\n", net, fmt::join(told, " "));
  }
}
