#pragma once

#include <string>
#include <string_view>

namespace lattice {

/// Returns a word of a command as it would be typed into a shell, in quotes where the shell would
/// read it in its own way. Everything that is printed to be typed goes through this function:
/// whatever a name from outside holds, a command with it does what it says and nothing else.
/// Source: POSIX.1-2017, Shell Command Language, 2.2 Quoting; what has control characters is in
/// dollar-single-quotes (POSIX.1-2024, 2.2.4), so that it stands in one line.
[[nodiscard]] std::string typed(std::string_view word);

/// Returns a flag and its value as they would be typed: `--node Ada`, and `--node=-1` for a value
/// that would be read as a flag itself.
[[nodiscard]] std::string typed_flag(std::string_view flag, std::string_view value);

}  // namespace lattice
