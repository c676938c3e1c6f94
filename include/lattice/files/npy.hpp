#pragma once

#include <filesystem>
#include <string>
#include <string_view>

#include "lattice/data/examples.hpp"

namespace lattice {

/// Reads an array of the open format NPY (version 1 to 3), plain or gzipped: integers and
/// floating-point numbers of 1 to 8 bytes, in either order of bytes and of axes, with up to 6 axes.
/// Unsigned bytes stay bytes, floating-point numbers of 4 bytes are in single precision, all others
/// in double.
/// @throws FileError when it is no such file, is truncated, or does not contain numbers.
[[nodiscard]] Examples read_npy(const std::filesystem::path& path);

/// The same from bytes; `name` stands for the file in messages.
[[nodiscard]] Examples parse_npy(std::string_view bytes, const std::string& name);

/// Numbers as an NPY file (version 1): as bytes if they are stored so, else as floating-point
/// numbers of their precision.
[[nodiscard]] std::string to_npy(const Examples& numbers);

}  // namespace lattice
