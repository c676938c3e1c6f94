#pragma once

#include <istream>

#include "lattice/learning/worked_example.hpp"
#include "tools/console.hpp"

namespace lattice::tools {

/// Walks through a worked example interactively: one entry at a time, forward and back, with
/// questions in between. Commands are read from `in`; output is only appended, so that nothing is
/// hidden and the window can be resized at any time.
void walk_through(const WorkedExample& example, std::istream& in, Console& console);

}  // namespace lattice::tools
