#pragma once

#include <cstdint>
#include <string>
#include <vector>

namespace lattice {

/// What passes through one layer, there and back.
struct LayerFlow {
  std::string layer;                  ///< its full name, `block2.conv`
  bool learns = false;                ///< whether it has weights of its own that are no biases
  double standard_deviation = 0.0;    ///< the standard deviation of all numbers that it gives
  double gradient_norm = 0.0;         ///< the length of the gradient that arrives at these
  double weight_gradient_norm = 0.0;  ///< the length of the gradient of its weights; 0 without any
  double dead = 0.0;                  ///< the share of its units that give 0 for every example
};

/// The layers of a network at a moment, in the order in which they work. A layer that leaves its
/// input as it is, such as a dropout in use, is not among them.
struct Depth {
  std::int64_t epoch = 0;  ///< after which
  std::vector<LayerFlow> layers = {};
};

}  // namespace lattice
