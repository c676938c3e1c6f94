#pragma once

#include <ostream>
#include <string>
#include <string_view>

#include "lattice/show/terminal.hpp"
#include "lattice/text/error.hpp"
#include "lattice/text/letters.hpp"

namespace lattice::tools {

/// Where a command writes. What was asked for goes to `out`, progress and remarks to `err`.
struct Console {
  std::ostream& out;
  std::ostream& err;
  TerminalStyle style = {};
  bool err_is_terminal = false;

  /// Prints a text without colours, and tells one of the work. Whatever name is in it, it cannot
  /// steer the terminal.
  void print(std::string_view text) const { out << harmless(text, LineBreaks::kept); }
  void tell(std::string_view text) const { err << harmless(text, LineBreaks::kept); }

  /// The same for one line, whatever line break is in a name.
  void print_line(std::string_view line) const { out << harmless(line) << "\n"; }
  void tell_line(std::string_view line) const { err << harmless(line) << "\n"; }
};

/// What to try, with the setting it comes down to worded as a flag: `scale the features: --scale
/// standard`.
[[nodiscard]] std::string in_flags(const std::string& remedy, const Advice& advice);

/// What a command answers to the shell.
enum class Exit { done = 0, answer_is_no = 1, bad_input = 2, our_fault = 3 };

}  // namespace lattice::tools
