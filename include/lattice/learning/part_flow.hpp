#pragma once

#include <cstdint>
#include <string>
#include <vector>

namespace lattice {

/// What passes through one part, there and back.
struct PartFlow {
  std::string part;      ///< its full name, `block2.conv`
  bool learns = false;   ///< whether it has weights of its own that are no biases
  double spread = 0.0;   ///< the standard deviation of all numbers that it gives
  double arrived = 0.0;  ///< the length of the gradient that arrives at these
  double learnt = 0.0;   ///< the length of the gradient of its weights; 0 without any
  double dead = 0.0;     ///< the share of its units that give 0 for every example
};

/// The parts of a network at a moment, in the order in which they work. A part that leaves its
/// input as it is, such as a dropout in use, is not among them.
struct Depth {
  std::int64_t epoch = 0;  ///< after which
  std::vector<PartFlow> parts = {};
};

}  // namespace lattice
