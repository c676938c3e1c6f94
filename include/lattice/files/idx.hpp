#pragma once

#include <filesystem>
#include <string>
#include <string_view>

#include "lattice/data/examples.hpp"

namespace lattice {

/// Reads an IDX file, plain or gzipped: an array of 1 to 6 axes, such as pictures
/// [example × row × column] or labels [example]. Unsigned bytes stay bytes; signed ones, integers
/// of 2 and 4 bytes and floating numbers of 4 and 8 become numbers in double precision.
/// @throws FileError when it is no such file, is truncated, continues after its end, or says that
///         it holds more than the machine's memory.
[[nodiscard]] Examples read_idx(const std::filesystem::path& path);

/// The same from bytes; `name` stands for the file in messages.
[[nodiscard]] Examples parse_idx(std::string_view bytes, const std::string& name);

/// Numbers as an IDX file: as bytes if they are stored so, else as floating-point numbers of their
/// precision.
[[nodiscard]] std::string to_idx(const Examples& numbers);

/// The same, gzipped.
[[nodiscard]] std::string gzipped(std::string_view bytes);

}  // namespace lattice
