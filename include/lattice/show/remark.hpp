#pragma once

#include <string>

#include "lattice/learning/remarks.hpp"
#include "lattice/show/terminal.hpp"

namespace lattice {

/// A remark: its code, the observation, and what to try.
[[nodiscard]] std::string show_remark(const Remark& remark, const TerminalStyle& style);

}  // namespace lattice
