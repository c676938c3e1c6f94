#pragma once

#include <optional>

#include "lattice/network/weights.hpp"
#include "lattice/worksheet/formula.hpp"
#include "lattice/worksheet/worksheet.hpp"

namespace lattice {

/// One weight before an update, for explaining the update.
struct BeforeUpdate {
  Line line;  ///< of the weight, on the worksheet of the gradient
  Weight weight;
  Tensor gradient;
  /// The clip factor of the gradient, if gradients are clipped.
  std::optional<Formula> clip_factor = std::nullopt;
};

}  // namespace lattice
