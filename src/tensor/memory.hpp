#pragma once

#include <cstddef>

namespace lattice {

/// How much memory the machine has. A system that promises more than it has would end the program
/// when the promise is called in.
[[nodiscard]] std::size_t machine_bytes();

}  // namespace lattice
