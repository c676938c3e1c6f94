#pragma once

#include "lattice/pictures/contrast.hpp"
#include "text/scanner.hpp"

namespace lattice {

/// Takes `contrast 9 subtractive epsilon 0.001`.
[[nodiscard]] Contrast take_contrast(Scanner& words);

}  // namespace lattice
