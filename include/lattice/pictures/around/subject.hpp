#pragma once

namespace lattice {

/// Makes pictures known to lessons, model files and everything that is shown, and to the core
/// (`use_pictures`). A second call does nothing.
/// @returns true
bool use_pictures_around();

}  // namespace lattice
