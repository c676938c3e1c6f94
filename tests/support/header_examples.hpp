#pragma once

#include <fmt/format.h>

#include <vector>

#include "lattice/lattice.hpp"
#include "lattice/show/charts.hpp"

namespace lattice::testing {

/// Has what the examples in the headers take for granted, by the names that they use.
struct Reader {
  Random random = Random(1);
  Dataset pots = demo_set("glazes", 40, 1);
  Split glazes = split(pots, {}, random);
  Network net = Network(Shape{5}, "dense 8, tanh, dense 4", random);
  Model model = model_of(net, Loss::cross_entropy, glazes.train);
  Tensor photos = zeros({40, 12});
  Tensor notes = zeros({40, 3});
  Tensor sizes = zeros({40, 2});
  Tensor kinds = zeros({40});
  Tensor features = zeros({40, 5});
  Tensor centre = zeros({5});
  Tensor spread = zeros({5});
  Tensor dW_by_hand = zeros({2, 1});

  Worksheet sheet = {};
  Line x = sheet.given("x", tensor({{1, 2}, {3, 4}}));
  Line W = sheet.weight("W", tensor({{3}, {4}}));
  Line z = matmul(x, W);
  Line ones = sheet.given("ones", zeros({2, 1}));
  Line p = softmax(z);
  Line classes = sheet.given("classes", tensor({0, 0}));
  Line cost = mean(square(z));
  Line loss = cost;
  Gradients gradients = reverse_sweep(cost);
  ReverseSweep sweep = ReverseSweep(cost);
  Pass pass = Pass(sheet, net.weights(), Phase::in_use());

  template <class... Shown>
  void show(const Shown&...) {}
  void teach() {}
};

}  // namespace lattice::testing
