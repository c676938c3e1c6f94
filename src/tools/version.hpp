#pragma once

namespace lattice::tools {

inline constexpr const char* version = LATTICE_VERSION;

}  // namespace lattice::tools
