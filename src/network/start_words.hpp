#pragma once

#include "lattice/network/start.hpp"
#include "text/scanner.hpp"

namespace lattice {

/// Takes the words of a start, `normal 0.05`, and as many numbers as follow.
[[nodiscard]] Start take_start(Scanner& words);

}  // namespace lattice
