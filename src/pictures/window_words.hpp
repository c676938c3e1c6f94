#pragma once

#include "lattice/network/part.hpp"
#include "text/scanner.hpp"

/// How blueprints name the layers that windows make.
namespace lattice {

/// `conv CHANNELS of ROWSxCOLUMNS …`.
[[nodiscard]] Part read_convolution(Scanner& words);

/// `maximum SIZE …`, `average SIZE …`.
[[nodiscard]] Part read_max_pooling(Scanner& words);
[[nodiscard]] Part read_mean_pooling(Scanner& words);

}  // namespace lattice
