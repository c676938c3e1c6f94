#pragma once

#include <filesystem>
#include <string>
#include <string_view>
#include <vector>

namespace lattice {

/// The whole content of a file, or of a pipe; `expected` is what it should be, for messages.
/// @throws FileError when it is missing, a folder, a device, a pipe nobody writes to, larger than
///         could be worked with, or cannot be read.
[[nodiscard]] std::string read_file(const std::filesystem::path& path, std::string_view expected);

/// Whether there is a folder, or a file with numbers or words in it, at the end of a path and its
/// links; false, too, where nobody can tell, as behind links that lead to each other.
[[nodiscard]] bool is_folder(const std::filesystem::path& path);
[[nodiscard]] bool is_plain_file(const std::filesystem::path& path);

/// Returns the first bytes of a file, as many as `count` where it has so many; none of what cannot
/// be read, or is no file, such as a pipe, from which they would be gone.
[[nodiscard]] std::string first_bytes(const std::filesystem::path& path, std::size_t count);

/// Writes a file so that it is always the old one or the new one, whole, whatever happens: to a
/// file beside it that then takes its place, with its mode. A link is followed. A file of several
/// names is filled anew where it is, so that it keeps them; the new content stands beside it until
/// then. A device, a pipe and what the output of the program goes to are written to.
/// @throws FileError; the old file is untouched then.
void write_file(const std::filesystem::path& path, std::string_view content);

/// Refuses a path that nothing can be written to, before the work begins.
/// @throws FileError as `write_file` would.
void check_place_for_file(const std::filesystem::path& path);

/// Takes away what a program that was killed left half written beside a file, and names it.
std::vector<std::string> take_leftovers_away(const std::filesystem::path& path);

/// True when both paths lead to the same file.
[[nodiscard]] bool is_same_file(const std::filesystem::path& a, const std::filesystem::path& b);

}  // namespace lattice
