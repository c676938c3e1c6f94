#pragma once

#include <filesystem>
#include <string>
#include <string_view>

namespace lattice {

/// The whole content of a file; `expected` is what it should be, for messages.
/// @throws FileError when it is missing, a folder, a device, or cannot be read.
[[nodiscard]] std::string read_file(const std::filesystem::path& path, std::string_view expected);

/// Writes a file so that it is always the old one or the new one, whole, whatever happens: to a
/// file beside it that then takes its place. @throws FileError; the old file is untouched then.
void write_file(const std::filesystem::path& path, std::string_view content);

}  // namespace lattice
