#pragma once

#include <string>

#include "lattice/learning/run_record.hpp"
#include "lattice/show/terminal.hpp"

namespace lattice {

/// The figures of a run, epoch by epoch; of a long run the first epochs, the last, and some
/// between. Below them how it ended, changes of the rate, and where it was gone on with.
[[nodiscard]] std::string show_run(const RunRecord& run, const TerminalStyle& style);

}  // namespace lattice
