#pragma once

#include "tools/console.hpp"
#include "tools/verb.hpp"

namespace lattice::tools {

/// `draw graph`: the graph of a calculation, which is drawn by another program than charts are.
[[nodiscard]] Verb graph_verb(Console& console);

}  // namespace lattice::tools
