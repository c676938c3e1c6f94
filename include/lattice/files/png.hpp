#pragma once

#include <cstdint>
#include <filesystem>
#include <span>
#include <string>
#include <string_view>

#include "lattice/tensor/raster.hpp"

namespace lattice {

/// A picture from a PNG file, with bytes from 0 to 255: 1 channel if the file is grey, else 3.
struct PngPicture {
  Raster picture;

  // How it was kept, where bytes say less than the file did.
  bool had_palette = false;
  bool had_16_bits = false;
  bool had_alpha = false;  ///< transparent parts are blended with black
};

/// Reads a PNG file. @throws FileError when it is not one, or damaged; MemoryError when it is
/// larger
///         than memory.
[[nodiscard]] PngPicture read_png(const std::filesystem::path& path);

/// The same from bytes; `name` stands for the file in messages.
[[nodiscard]] PngPicture parse_png(std::string_view bytes, const std::string& name);

/// A picture of 1 or 3 channels as a PNG file. @throws ShapeError for other channels.
[[nodiscard]] std::string to_png(const Raster& picture);

}  // namespace lattice
