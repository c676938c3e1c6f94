#pragma once

#include "tools/console.hpp"
#include "tools/verb.hpp"

namespace lattice::tools {

/// `draw network`: units and weights for one example of a minibatch, or of an answer.
[[nodiscard]] Verb network_verb(Console& console);

}  // namespace lattice::tools
