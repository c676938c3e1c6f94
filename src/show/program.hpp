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

/// The same for a program that draws: the picture.
/// @param ending of the file that it is for: `.svg`, `.png`, `.gif` or `.pdf`
/// @throws ProgramError as `run_program` does, and where what it wrote is no whole picture of that
///         kind
[[nodiscard]] std::string drawn_by(const std::vector<std::string>& command, std::string_view input,
                                   std::string_view package, std::string_view ending);

}  // namespace lattice
