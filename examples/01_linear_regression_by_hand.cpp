// Lesson 1: linear regression by hand.
//
// A small kiln is fired, and now and then someone reads its temperature. We look for the straight
// line  z = x·W + b  that tells the temperature z from the minutes x. First with tensors alone, the
// gradients derived on paper; then with a worksheet, which derives them itself. Both have to agree.
// With the name of a folder, the first three updates are put there as a page.

#include <fmt/core.h>

#include <algorithm>
#include <filesystem>

#include "lattice/lattice.hpp"
#include "lattice/show/page.hpp"

using namespace lattice;

constexpr double rate = 0.02;
constexpr int epochs = 200;

/// W and b, wherever they have got to.
struct Straight {
  Tensor W;
  Tensor b;
};

/// Step 1: start. W random around 0, b zero.
Straight start() {
  Random random(1);
  return {.W = normal({1, 1}, 0.0, 0.1, random), .b = zeros({1})};
}

/// Step 2: forward. A guess for each reading.
Tensor forward(const Straight& line, const Tensor& x) {
  return matmul(x, line.W) + line.b;
}

/// Step 3: cost. Half the mean of the squared errors.
double cost_of(const Tensor& z, const Tensor& y) {
  return 0.5 * mean(square(z - y)).number();
}

/// Step 4: gradients, derived on paper.
///
///     cost = 1/2n · Σ (z[i] − y[i])²      so   ∂cost/∂z[i] = (z[i] − y[i]) / n
///     z[i] = Σ x[i,k]·W[k] + b            so   ∂cost/∂W    = xᵀ·∂cost/∂z
///                                         and  ∂cost/∂b    = Σ ∂cost/∂z[i]
Straight gradients_by_hand(const Tensor& x, const Tensor& y, const Tensor& z) {
  const Tensor dz = (z - y) / static_cast<double>(x.shape()[0]);
  return {.W = matmul(transpose(x), dz), .b = sum(dz, {.axes = {0}})};
}

/// Step 5: update. A little way against the gradient.
Straight update(const Straight& line, const Straight& gradient) {
  return {.W = line.W - rate * gradient.W, .b = line.b - rate * gradient.b};
}

/// The formulas on a worksheet; gives the cost.
Line write_down(Worksheet& sheet, const Straight& line, const Dataset& kiln) {
  const Line W = sheet.weight("W", line.W);
  const Line b = sheet.weight("b", line.b);
  const Line z = named("z", matmul(sheet.given("x", kiln.features), W) + b);
  return named("cost", 0.5 * mean(square(z - sheet.given("y", kiln.targets))));
}

int main(int count, char** arguments) {
  const Dataset kiln = demo_set("kiln");
  const Tensor& x = kiln.features;
  const Tensor& y = kiln.targets;

  fmt::print("With tensors alone: {} readings, rate {}\n\n", kiln.rows(), rate);
  fmt::print("  epoch         cost    W, °C/min     b, °C\n");
  Straight line = start();
  for (int epoch = 0; epoch <= epochs; ++epoch) {  // Step 6: repeat.
    const Tensor z = forward(line, x);
    if (epoch % 20 == 0 || epoch == 1) {
      fmt::print("  {:>5} {:>12.2f} {:>12.3f} {:>9.3f}\n", epoch, cost_of(z, y), line.W.number(),
                 line.b.number());
    }
    if (epoch < epochs) line = update(line, gradients_by_hand(x, y, z));
  }

  // The same with a worksheet: the formulas are written down once, and the reverse sweep finds the
  // gradients. At every epoch both are put side by side.
  Straight learnt = start();
  double farthest = 0.0;
  for (int epoch = 0; epoch < epochs; ++epoch) {
    Worksheet sheet;
    const Gradients engine = reverse_sweep(write_down(sheet, learnt, kiln));

    const Straight by_hand = gradients_by_hand(x, y, sheet.line("z").value());
    farthest = std::max({farthest, distance(engine["W"], by_hand.W).largest,
                         distance(engine["b"], by_hand.b).largest});
    learnt = update(learnt, {.W = engine["W"], .b = engine["b"]});
  }
  fmt::print("\nWith a worksheet: the same {} updates\n\n", epochs);
  fmt::print("  largest distance between a gradient by hand and the engine's   {:.1e}\n", farthest);
  fmt::print("  distance between the two W at the end                          {:.1e}\n",
             distance(line.W, learnt.W).largest);
  fmt::print("  distance between the two b at the end                          {:.1e}\n",
             distance(line.b, learnt.b).largest);

  if (count < 2) return 0;
  Worksheet sheet;
  const Line cost = write_down(sheet, start(), kiln);
  write_page(std::filesystem::path(arguments[1]) / "a_line_by_hand.html",
             work_sheet(std::move(sheet), cost,
                        {.title = "A straight line by hand",
                         .names = kiln.axis_names(),
                         .rule = Descent{.rate = rate},
                         .steps = {1, 2, 3}}));
}
