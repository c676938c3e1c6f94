#pragma once

#include <istream>

#include "lattice/learning/worked_example.hpp"
#include "tools/console.hpp"

namespace lattice::tools {

/// Leads through a worked example at the speaker's pace: one entry at a time, forward and back,
/// with questions in between. Lines are read from `in` and everything is written below what was
/// there before, so that nothing is hidden and a window may change its size at any time.
void walk_through(const WorkedExample& example, std::istream& in, Console& console);

}  // namespace lattice::tools
