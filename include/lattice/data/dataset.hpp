#pragma once

#include <cstdint>
#include <string>
#include <vector>

#include "lattice/tensor/tensor.hpp"

namespace lattice {

/// A table to learn from: features and targets, row by row.
struct Dataset {
  std::string name;
  Tensor features;  ///< [example × feature]
  Tensor targets;   ///< [example × unit]
  std::vector<std::string> feature_names = {};
  std::string target_name = {};

  [[nodiscard]] std::int64_t rows() const { return features.shape()[0]; }

  /// The same table in another precision.
  [[nodiscard]] Dataset in(Precision precision) const;
};

}  // namespace lattice
