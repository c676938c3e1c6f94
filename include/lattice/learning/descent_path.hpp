#pragma once

#include <cstdint>
#include <string>
#include <vector>

#include "lattice/judging/decision_map.hpp"
#include "lattice/learning/training.hpp"

namespace lattice {

/// The way that two numbers among the weights took through a run.
struct DescentPath {
  std::string name;            ///< `minibatches of 16`
  std::vector<double> across;  ///< the first number before the run and after each step
  std::vector<double> up;      ///< the second
  Network network;             ///< as the run left it
};

/// Trains a copy of a network and notes down two of its weights after each step.
/// @throws NameError, IndexError when a place is not one of a weight; as `train` does.
[[nodiscard]] DescentPath descent_path(const std::string& name, const Network& network,
                                       const Split& split, const TrainSettings& settings,
                                       const Place& across, const Place& up);

/// The loss of rows over a plane of two weights, the others left as they are.
struct LossSurface {
  Tensor across;  ///< [column], values of the first weight
  Tensor up;      ///< [row], values of the second
  Tensor losses;  ///< [row × column]
};

/// @param count how many values of each weight, 2 or more
/// @throws as `descent_path` and `assess` do.
[[nodiscard]] LossSurface loss_surface(const Network& network, const Loss& loss, const RowSet& rows,
                                       const Place& across, const Place& up, Stretch across_values,
                                       Stretch up_values, std::int64_t count = 50);

}  // namespace lattice
