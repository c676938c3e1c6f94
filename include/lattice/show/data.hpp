#pragma once

#include <string>

#include "lattice/data/dataset.hpp"
#include "lattice/show/terminal.hpp"

namespace lattice {

/// Columns with range, mean and standard deviation, class counts, and the first rows.
[[nodiscard]] std::string show_data(const Dataset& data, const TerminalStyle& style);

}  // namespace lattice
