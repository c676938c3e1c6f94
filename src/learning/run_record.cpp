#include "lattice/learning/run_record.hpp"

namespace lattice {

std::vector<Look> RunRecord::watched() const {
  std::vector<Look> looks;
  for (const EpochFigures& figures : epochs)
    looks.push_back({.epoch = figures.epoch, .loss = figures.watched()});
  return looks;
}

}  // namespace lattice
