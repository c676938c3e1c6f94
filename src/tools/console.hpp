#pragma once

#include <ostream>
#include <string>
#include <string_view>

#include "lattice/show/terminal.hpp"
#include "lattice/text/error.hpp"
#include "lattice/text/letters.hpp"

namespace lattice::tools {

/// The outputs of a command: results go to `out`, progress and remarks to `err`.
struct Console {
  std::ostream& out;
  std::ostream& err;
  TerminalStyle style = {};
  bool err_is_terminal = false;

  /// Print a text to `out`, and to `err`, without colours. Names in it cannot control the terminal.
  void print(std::string_view text) const { out << harmless(text, LineBreaks::kept); }
  void tell(std::string_view text) const { err << harmless(text, LineBreaks::kept); }

  /// The same for one line, even if a name contains a line break.
  void print_line(std::string_view line) const { out << harmless(line) << "\n"; }
  void tell_line(std::string_view line) const { err << harmless(line) << "\n"; }
};

/// A remedy with its setting as a flag: `scale the features: --scale standard`.
[[nodiscard]] std::string in_flags(const std::string& remedy, const Advice& advice);

/// The exit status of a command.
enum class Exit { done = 0, answer_is_no = 1, bad_input = 2, our_fault = 3 };

}  // namespace lattice::tools
