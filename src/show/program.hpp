#pragma once

#include <string>
#include <string_view>
#include <vector>

namespace lattice {

/// Runs another program with a text on its standard input.
/// @param package the Debian package that has it, for the message when it is missing
/// @returns what it wrote to its standard output
/// @throws ProgramError when it is not there, or fails; with the last line of what it said
[[nodiscard]] std::string run_program(const std::vector<std::string>& command,
                                      std::string_view input, std::string_view package);

}  // namespace lattice
