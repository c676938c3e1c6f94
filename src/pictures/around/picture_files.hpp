#pragma once

#include <cstdint>
#include <filesystem>
#include <string>
#include <string_view>
#include <vector>

#include "lattice/data/examples.hpp"

/// What files of pictures and of labels hold.
namespace lattice {

inline constexpr std::string_view what_pictures_are =
    "a folder with a folder of PNG files for each class, an IDX file or an NPY file";

[[noreturn]] void refuse_pictures(const std::string& where, std::string what, std::string expected,
                                  std::string found, std::string remedy = "");

enum class PictureFormat : std::uint8_t { idx, npy, png, other };

/// What a file is, by its first bytes.
[[nodiscard]] PictureFormat format_of(const std::filesystem::path& path);

/// The array of an IDX or an NPY file.
[[nodiscard]] Examples read_grid(const std::filesystem::path& path);

/// The same as pictures [example × row × column × channel]. @throws FileError for other axes.
[[nodiscard]] Examples read_grid_of_pictures(const std::string& path);

/// The classes of pictures, with names.
struct Labels {
  std::vector<double> numbers;
  std::vector<std::string> names;
};

/// Labels in a file: numbers of classes, or a name a line.
/// @param names of class 0, of class 1 …; or none
[[nodiscard]] Labels labels_in(const std::string& path, const std::vector<std::string>& names);

/// Names in a file, a line each; and a name as a line of it.
[[nodiscard]] std::vector<std::string> lines_of(const std::filesystem::path& path);
[[nodiscard]] std::string as_line(std::string_view name);

}  // namespace lattice
