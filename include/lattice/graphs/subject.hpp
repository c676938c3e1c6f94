#pragma once

namespace lattice {

/// Makes the layer `neighbours`, what there is to remark on graphs, and the demo set of one known
/// to blueprints and lessons. A second call does nothing.
/// @returns true
bool use_graphs();

}  // namespace lattice
