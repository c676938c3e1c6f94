#pragma once

#include <ostream>

#include "lattice/show/terminal.hpp"

namespace lattice::tools {

/// Where a command writes. What was asked for goes to `out`, progress and remarks to `err`.
struct Console {
  std::ostream& out;
  std::ostream& err;
  TerminalStyle style = {};
  bool err_is_terminal = false;
};

/// What a command answers to the shell.
enum class Exit { done = 0, answer_is_no = 1, bad_input = 2, our_fault = 3 };

}  // namespace lattice::tools
