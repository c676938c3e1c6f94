#include "lattice/learning/run_record.hpp"

#include <limits>

namespace lattice {

double EpochFigures::watched() const {
  for (const std::optional<Figures>& figures : {validation, train, running}) {
    if (figures) return figures->loss;
  }
  return std::numeric_limits<double>::infinity();
}

std::int64_t RunRecord::epoch_of_weights() const {
  const bool are_best = best && (ends_with_best || ending == Ending::diverged);
  return are_best ? best->epoch : last_epoch();
}

std::vector<Look> RunRecord::watched() const {
  std::vector<Look> looks;
  for (const EpochFigures& figures : epochs)
    looks.push_back({.epoch = figures.epoch, .loss = figures.watched()});
  return looks;
}

}  // namespace lattice
