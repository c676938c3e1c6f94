#pragma once

namespace lattice {

/// Makes the layer `neighbours`, the remarks on graphs and their demo set known to blueprints and
/// lessons. A second call does nothing.
/// @returns true
bool use_graphs();

}  // namespace lattice
