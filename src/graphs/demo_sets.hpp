#pragma once

#include <cstdint>

#include "lattice/data/dataset.hpp"
#include "lattice/tensor/random.hpp"

namespace lattice {

/// Potters who share kilns, as a graph; two of each guild are known.
[[nodiscard]] Dataset make_studios(std::int64_t rows, Random& random);

}  // namespace lattice
