#pragma once

#include <cstdint>
#include <string>
#include <vector>

namespace lattice {

/// The activations and gradients of one layer.
struct LayerFlow {
  std::string layer;                  ///< its full name, `block2.conv`
  bool learns = false;                ///< whether it has weights other than biases
  double standard_deviation = 0.0;    ///< of all numbers of its output
  double gradient_norm = 0.0;         ///< the norm of the gradient of its output
  double weight_gradient_norm = 0.0;  ///< the norm of the gradient of its weights; 0 without any
  double dead = 0.0;                  ///< the share of its units that give 0 for every example
};

/// The layers of a network after an epoch, in order, without those that do not change their input,
/// such as dropout in evaluation.
struct FlowMoment {
  std::int64_t epoch = 0;  ///< after which
  std::vector<LayerFlow> layers = {};
};

}  // namespace lattice
