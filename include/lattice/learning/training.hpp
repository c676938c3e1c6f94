#pragma once

#include <cstdint>
#include <functional>
#include <vector>

#include "lattice/learning/descent.hpp"
#include "lattice/network/linear_model.hpp"

namespace lattice {

/// The figures of one epoch.
struct EpochFigures {
  std::int64_t epoch = 0;  ///< counted from 1; 0 for the figures before the first update
  double running_cost =
      0.0;                  ///< mean over the epoch's examples, each taken when its minibatch came
  double whole_cost = 0.0;  ///< of the whole set, with the weights at the end of the epoch
};

/// What happened in a training run.
struct RunRecord {
  std::vector<EpochFigures> epochs;  ///< the first is epoch 0, which has no running cost
  double seconds = 0.0;              ///< from start to end, observers included
};

/// The numbers that a run is made with.
struct TrainSettings {
  Descent rule = {};
  std::int64_t epochs = 20;  ///< how many times every row is seen; 1 or more
  std::int64_t batch = 16;   ///< rows in a minibatch

  /// Called after each epoch, and once before the first.
  std::function<void(const EpochFigures&)> observer = nullptr;
};

/// Trains a linear model on a dataset, minibatch by minibatch; `random` decides the order of rows.
/// @throws SettingError for impossible settings, NumberError when the cost is no longer a number;
///         the model then keeps the weights of the last whole epoch.
RunRecord train(LinearModel& model, const Dataset& data, const TrainSettings& settings,
                Random& random);

}  // namespace lattice
