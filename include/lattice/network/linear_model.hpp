#pragma once

#include <optional>

#include "lattice/data/minibatches.hpp"
#include "lattice/data/scaling.hpp"
#include "lattice/network/weights.hpp"
#include "lattice/worksheet/worksheet.hpp"

namespace lattice {

/// The smallest network there is: z = x·W + b, judged by half the mean squared error.
struct LinearModel {
  Weights weights;                 ///< W [feature × unit] and b [unit]
  std::optional<Scaling> scaling;  ///< how raw features become x, when they are scaled

  /// W random around 0 with a spread of 0.1, b zero.
  /// @throws ShapeError unless features and targets are [example × …] tables.
  [[nodiscard]] static LinearModel start(const Dataset& data, Random& random);

  /// Writes a batch down, from the features to the cost: lines x, y, W, b, z, the error e, its
  /// square s, the mean m of that, and cost = 0.5·m. With a scaling, the lines raw, centre and
  /// spread come first, and x is calculated from them.
  /// @return the line of the cost
  Line write_down(Worksheet& sheet, const Batch& batch) const;

  /// The same cost to the last bit in as few lines as there can be, for training: x, y, W, b, z and
  /// cost. The features of the batch are taken as x, already scaled where there is a scaling.
  Line write_down_briefly(Worksheet& sheet, const Batch& batch) const;
};

}  // namespace lattice
