#pragma once

namespace lattice {

/// Makes graphs known to lessons, model files and everything that is shown, and to the core
/// (`use_graphs`). A second call does nothing.
/// @returns true
bool use_graphs_around();

}  // namespace lattice
