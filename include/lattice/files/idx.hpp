#pragma once

#include <filesystem>
#include <string>
#include <string_view>

#include "lattice/data/examples.hpp"

namespace lattice {

/// Reads an IDX file, plain or gzipped: a grid of numbers of 1 to 6 axes, such as pictures
/// [example × row × column] or labels [example]. Unsigned bytes stay bytes; signed ones, integers
/// of 2 and 4 bytes and floating numbers of 4 and 8 become numbers in double precision.
/// @throws FileError when it is no such file, is truncated, continues after its end, or says that
///         it holds more than the machine's memory.
[[nodiscard]] Examples read_idx(const std::filesystem::path& path);

/// The same from bytes; `name` stands for the file in messages.
[[nodiscard]] Examples parse_idx(std::string_view bytes, const std::string& name);

/// Numbers as an IDX file: bytes where they are kept so, else floating numbers of 8 bytes, or of 4
/// in single precision.
[[nodiscard]] std::string to_idx(const Examples& numbers);

/// The same, gzipped.
[[nodiscard]] std::string gzipped(std::string_view bytes);

}  // namespace lattice
