#include "lattice/data/dataset.hpp"

namespace lattice {

Dataset Dataset::in(Precision precision) const {
  Dataset result = *this;
  result.features = features.in(precision);
  result.targets = targets.in(precision);
  return result;
}

}  // namespace lattice
