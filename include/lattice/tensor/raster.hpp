#pragma once

#include <cstdint>
#include <vector>

#include "lattice/tensor/shape.hpp"

namespace lattice {

/// Whether the axes of a shape are of rows, columns and channels, in this order, so that the
/// numbers can be displayed as pixels.
[[nodiscard]] bool is_raster(const Shape& shape);

/// Pixels as bytes from 0 to 255, row by row, the channels of each pixel next to each other.
struct Raster {
  std::int64_t rows = 1;
  std::int64_t columns = 1;
  std::int64_t channels = 1;
  std::vector<std::uint8_t> bytes = {};

  /// [row × column × channel].
  [[nodiscard]] Shape shape() const;
};

}  // namespace lattice
