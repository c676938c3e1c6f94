#pragma once

#include "lattice/network/layer.hpp"
#include "text/scanner.hpp"

/// How blueprints name the layers that windows make.
namespace lattice {

/// `conv CHANNELS of ROWSxCOLUMNS …`.
[[nodiscard]] Layer read_convolution(Scanner& words);

/// `maximum SIZE …`, `average SIZE …`.
[[nodiscard]] Layer read_max_pooling(Scanner& words);
[[nodiscard]] Layer read_mean_pooling(Scanner& words);

}  // namespace lattice
