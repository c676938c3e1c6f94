#pragma once

#include <optional>

#include "lattice/network/weights.hpp"
#include "lattice/worksheet/formula.hpp"
#include "lattice/worksheet/worksheet.hpp"

namespace lattice {

/// One weight before an update, and what there is to say about it.
struct BeforeUpdate {
  Line line;  ///< of the weight, in the worksheet that gave the gradient
  Weight weight;
  Tensor gradient;
  /// What the gradient is multiplied by, where its length is limited.
  std::optional<Formula> clip_factor = std::nullopt;
};

}  // namespace lattice
