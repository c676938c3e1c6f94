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

/// Whether a program of this name is there to be run.
[[nodiscard]] bool is_program(std::string_view name);

/// A picture that a program drew. @throws ProgramError where it is no whole picture of its kind.
/// @param ending of the file that it is for: `.svg`, `.png`, `.gif` or `.pdf`
[[nodiscard]] std::string whole_picture(const std::string& picture, std::string_view program,
                                        std::string_view ending);

/// The same as `run_program` for a program that draws: the picture.
/// @throws ProgramError as `run_program` and `whole_picture` do
[[nodiscard]] std::string drawn_by(const std::vector<std::string>& command, std::string_view input,
                                   std::string_view package, std::string_view ending);

}  // namespace lattice
