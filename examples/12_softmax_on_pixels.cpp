// Lesson 12: a softmax on pixels.
//
// A picture is a row of numbers as soon as one writes its pixels one after another. Here makers'
// stamps of 12 × 12 become rows of 144, and a softmax learns to tell them apart, from tensors up:
// scores, probabilities, gradients and updates by hand. What it has learnt can be looked at as
// pictures again, since each weight belongs to a pixel.

#include <fmt/core.h>

#include "lattice/lattice.hpp"
#include "lattice/show/picture_grid.hpp"

using namespace lattice;

namespace {

/// The share of pictures whose likeliest class is the true one.
double accuracy(const Tensor& x, const Tensor& W, const Tensor& b, const Tensor& classes) {
  return mean(equal(argmax(matmul(x, W) + b), classes)).number();
}

}  // namespace

int main() {
  Random random(1);
  const Dataset stamps = demo_set("stamps");
  const Split parts = split(stamps, {.stratified = true}, random);
  const auto pixels = [](const Batch& batch) { return flatten(batch.features) / 255.0; };
  const Batch test = parts.test.all();

  constexpr double rate = 0.1;
  constexpr int epochs = 40;
  Tensor W = zeros({144, 8});
  Tensor b = zeros({8});
  fmt::print("epoch  loss    accuracy on the test part\n");
  for (int epoch = 1; epoch <= epochs; ++epoch) {
    double lost = 0.0;
    for (const Batch& batch : minibatches(parts.train, {.size = 16}, random)) {
      const Tensor x = pixels(batch);
      const Tensor truth = one_hot(batch.classes, 8);
      const Tensor p = softmax(matmul(x, W) + b);
      lost += -sum(truth * log(p)).number();
      // The gradient of the loss by the scores is what was said less what is true.
      const Tensor dz = (p - truth) / static_cast<double>(x.shape()[0]);
      W = W - rate * matmul(x, dz, {.first = true});
      b = b - rate * sum(dz, {.axes = {0}});
    }
    if (epoch % 10 == 0) {
      fmt::print("{:>5}  {:.4f}  {:.4f}\n", epoch, lost / static_cast<double>(parts.train.count()),
                 accuracy(pixels(test), W, b, test.classes));
    }
  }

  // Every class has a weight for each pixel: a picture of where it wants to see ink.
  std::vector<CaptionedPicture> pictures;
  for (std::int64_t of = 0; of < 8; ++of) {
    const Tensor column = slice(W, 1, {.from = of, .end = of + 1});
    pictures.push_back({.picture = reshape(column, {12, 12, 1}), .caption = stamps.class_name(of)});
  }
  const double largest = max(abs(W)).number();
  fmt::print("\nWhere each class wants ink (bright) and where none (dark):\n\n{}",
             show_pictures(pictures, {}, {.black = -largest, .white = largest}));
}
