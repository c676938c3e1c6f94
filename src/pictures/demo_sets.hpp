#pragma once

#include <cstdint>

#include "lattice/data/dataset.hpp"
#include "lattice/tensor/random.hpp"

/// The demo sets whose examples are pictures.
namespace lattice {

/// Makers' stamps, pressed into clay: [example × row 12 × column 12 × channel 1], grey from 0 to
/// 255.
[[nodiscard]] Dataset make_stamps(std::int64_t rows, Random& random);

/// Glazed tiles: [example × row 16 × column 16 × channel 3], red, green and blue from 0 to 255.
[[nodiscard]] Dataset make_tiles(std::int64_t rows, Random& random);

}  // namespace lattice
