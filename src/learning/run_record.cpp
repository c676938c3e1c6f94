#include "lattice/learning/run_record.hpp"

namespace lattice {

std::vector<double> RunRecord::watched() const {
  std::vector<double> losses;
  for (const EpochFigures& figures : epochs)
    losses.push_back(figures.watched());
  return losses;
}

}  // namespace lattice
