// Lesson 5: softmax regression, from tensors up.
//
// Softmax regression written from tensors up: no worksheet, no network. Scores, probabilities,
// cross-entropy, and a gradient derived on paper. At the end the engine's gradient beside it, and
// the network that does the same. With the name of a folder, six rows are put there as a page.

#include <fmt/core.h>

#include <filesystem>

#include "lattice/lattice.hpp"
#include "lattice/show/page.hpp"

using namespace lattice;

namespace {

struct Regression {
  Tensor W;  // [feature × class]
  Tensor b;  // [class]
};

/// scores = x·W + b, one for each class.
Tensor scores_of(const Regression& model, const Tensor& x) {
  return matmul(x, model.W) + model.b;
}

/// p[i,k] = exp(s[i,k] − m[i]) / Σ exp(s[i,·] − m[i]). The largest score m changes nothing on
/// paper, and keeps exp from overflowing.
Tensor probabilities(const Tensor& scores) {
  const Tensor m = max(scores, {.axes = {1}, .keep = true});
  const Tensor e = exp(scores - m);
  return e / sum(e, {.axes = {1}, .keep = true});
}

/// The mean of −log p at the true class.
double loss_of(const Tensor& p, const Tensor& classes) {
  return -mean(log(at_class(p, classes))).number();
}

struct Gradient {
  Tensor W;
  Tensor b;
};

/// On paper ∂loss/∂s[i,k] = (p[i,k] − 1 at the true class) / n. The rest is the chain rule through
/// x·W + b.
Gradient gradient_of(const Tensor& x, const Tensor& p, const Tensor& classes) {
  const auto rows = static_cast<double>(x.shape()[0]);
  const Tensor ds = (p - one_hot(classes, p.shape()[1])) / rows;
  return {.W = matmul(x, ds, {.first = true}), .b = sum(ds, {.axes = {0}})};
}

}  // namespace

int main(int count, char** arguments) {
  Random dealing(1);
  const Split dealt =
      scaled(split(demo_set("glazes"), {.stratified = true}, dealing), ScalingKind::standard);
  const Tensor& x = dealt.train.features();
  const Tensor& y = dealt.train.classes();
  Regression model{.W = zeros({5, 4}), .b = zeros({4})};

  fmt::print("Before: every class equally likely, so the loss is ln 4\n");
  constexpr double rate = 0.5;
  for (int epoch = 0; epoch <= 200; ++epoch) {
    const Tensor p = probabilities(scores_of(model, x));
    if (epoch % 40 == 0) {
      fmt::print("  epoch {:>3}: loss {:.5f}, accuracy {:.4f}\n", epoch, loss_of(p, y),
                 accuracy(argmax(p), y));
    }
    const Gradient d = gradient_of(x, p, y);
    model.W = model.W - rate * d.W;
    model.b = model.b - rate * d.b;
  }
  const Tensor answers = argmax(scores_of(model, dealt.test.features()));
  fmt::print("Test accuracy: {:.4f}\n\n", accuracy(answers, dealt.test.classes()));

  // The gradient on paper beside the engine's.
  Worksheet sheet;
  const Line W = sheet.weight("W", model.W);
  const Line b = sheet.weight("b", model.b);
  const Line loss = cross_entropy(matmul(sheet.given("x", x), W) + b, sheet.given("y", y));
  const Gradients engine = reverse_sweep(loss);
  const Gradient hand = gradient_of(x, probabilities(scores_of(model, x)), y);
  fmt::print("∂loss/∂W on paper and by the engine {}\n", agreement(hand.W, engine["W"]));
  fmt::print("∂loss/∂b on paper and by the engine {}\n\n", agreement(hand.b, engine["b"]));

  // The same as a network of one layer, all rows in one minibatch.
  Network net(Shape{5}, {Dense{.outputs = 4, .start = Start::zeros()}}, Random(1));
  static_cast<void>(
      train(net, dealt, {.rule = Descent{.rate = rate}, .epochs = 201, .batch = x.shape()[0]}));
  fmt::print("The weights of the network and those above {}\n",
             agreement(model.W, net["output.weight"]));

  if (count < 2) return 0;
  const Batch six = dealt.train.from(0, 6);
  Worksheet few;
  const Line rows = few.given("x", six.features);
  const Line weight = few.weight("W", model.W);
  const Line bias = few.weight("b", model.b);
  const Line scores = named("scores", dense(rows, weight, bias));
  const Line p = named("p", softmax(scores));
  const Line surprise = named("surprise", -log(at_class(p, few.given("y", six.classes))));
  const Line cost = named("cost", mean(surprise));
  write_page(std::filesystem::path(arguments[1]) / "softmax_from_tensors.html",
             work_sheet(std::move(few), cost,
                        {.title = "Softmax regression from tensors up",
                         .names = dealt.data().axis_names(),
                         .rule = Descent{.rate = rate},
                         .rows = six}));
}
