// Lesson 15: many layers by a loop, and what passes through them.
//
// A deep network is a loop over groups of layers. One behind the other they hardly learn: on its
// way back the gradient is lost. With a skip connection around each pair, and normalised, the same
// layers learn; what arrives at each of them shows why.

#include <fmt/core.h>

#include "lattice/lattice.hpp"

using namespace lattice;

namespace {

Convolution eight_kernels() {
  return {.outputs = 8,
          .window = {.rows = 3, .columns = 3, .padding = Padding::keeping_size()},
          .start = Start::he()};
}

std::vector<Layer> in_a_row(int pairs) {
  std::vector<Layer> layers = {eight_kernels(), Relu{}};
  for (int pair = 0; pair < pairs; ++pair)
    layers.emplace_back(Block({eight_kernels(), Relu{}, eight_kernels(), Relu{}}));
  layers.emplace_back(MeanPooling{.is_whole = true});
  layers.emplace_back(Dense{.outputs = 6});
  return layers;
}

std::vector<Layer> with_skip_connections(int pairs) {
  std::vector<Layer> layers = {eight_kernels(), Normalise{}, Relu{}};
  for (int pair = 0; pair < pairs; ++pair) {
    const Residual residual({eight_kernels(), Normalise{}, Relu{}, eight_kernels(), Normalise{}});
    layers.emplace_back(Block({residual, Relu{}}));
  }
  layers.emplace_back(MeanPooling{.is_whole = true});
  layers.emplace_back(Dense{.outputs = 6});
  return layers;
}

}  // namespace

int main() {
  Dataset tiles = demo_set("tiles", 600, 1);
  tiles.features = changed(tiles.features, {.size = PictureSize{8, 8}});
  Random dealing(1);
  const Split parts =
      prepared(split(tiles, {}, dealing), {ScalingSettings{.by = ScaledBy::channel}});

  constexpr int pairs = 8;
  for (const auto& [name, list] :
       {std::pair("in a row", in_a_row(pairs)),
        std::pair("with skip connections", with_skip_connections(pairs))}) {
    Network net(parts.data().example(), list, Random(2));
    fmt::print("{}: {}\n", name, net.blueprint());
    const RunRecord run =
        train(net, parts, {.rule = Momentum{.rate = 0.05}, .epochs = 12, .batch = 32});
    for (const LayerFlow& layer : look_through(net, Loss::cross_entropy, parts.train)) {
      if (!layer.learns) continue;
      fmt::print("  {:<20} standard deviation {:<8.3g} gradient norm {:.2g}\n", layer.layer,
                 layer.standard_deviation, layer.gradient_norm);
    }
    fmt::print("  accuracy on the train part {:.3f}\n\n", *run.epochs.back().train->accuracy);
  }
}
