#pragma once

#include <cstdint>
#include <string>
#include <vector>

#include "lattice/judging/decision_map.hpp"
#include "lattice/learning/training.hpp"

namespace lattice {

/// The values of two weights during a run.
struct DescentPath {
  std::string name;            ///< `minibatches of 16`
  std::vector<double> across;  ///< the first number before the run and after each step
  std::vector<double> up;      ///< the second
  Network network;             ///< at the end of the run
};

/// Trains a copy of a network and records two of its weights after each step.
/// @throws NameError, IndexError for an element that is not of a weight; as `train` does.
[[nodiscard]] DescentPath descent_path(const std::string& name, const Network& network,
                                       const Split& split, const TrainSettings& settings,
                                       const Place& across, const Place& up);

/// The loss of rows over two weights, with the others fixed.
struct LossSurface {
  Tensor across;  ///< [column], values of the first weight
  Tensor up;      ///< [row], values of the second
  Tensor losses;  ///< [row × column]
};

/// @param count the number of values of each weight, 2 or more
/// @throws as `descent_path` and `assess` do.
[[nodiscard]] LossSurface loss_surface(const Network& network, const Loss& loss, const RowSet& rows,
                                       const Place& across, const Place& up, Stretch across_values,
                                       Stretch up_values, std::int64_t count = 50);

}  // namespace lattice
