#pragma once

#include <string>

#include "lattice/network/network.hpp"
#include "lattice/show/terminal.hpp"

namespace lattice {

/// A network part by part: outputs, weights, and the total.
[[nodiscard]] std::string show_plan(const Plan& plan, const TerminalStyle& style);

}  // namespace lattice
