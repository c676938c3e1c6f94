#pragma once

#include <cstdint>
#include <filesystem>
#include <functional>
#include <optional>
#include <span>
#include <string>
#include <vector>

#include "lattice/data/dataset.hpp"
#include "lattice/data/table.hpp"
#include "lattice/pictures/picture.hpp"

namespace lattice {

/// One place that pictures come from.
struct PicturePlace {
  std::string path;         ///< IDX or NPY, gzipped or not; or a folder
  std::string labels = {};  ///< IDX, NPY, or text with a label a line; for a file of pictures

  /// The class of all its pictures. A folder then has PNG files, or `pictures.idx`, directly in it.
  std::string class_name = {};
};

/// Where pictures come from, and what is done to them.
struct PictureSource {
  std::vector<PicturePlace> places = {};  ///< read as one, one after another
  std::vector<std::string> class_names =
      {};  ///< of class 0, of class 1 …, where labels are numbers
  PictureChanges changes = {};
  bool may_be_one_class = false;  ///< otherwise there are two or more

  /// Which of so many pictures are kept, by their numbers in order; all if it is null, or says so
  /// by nothing. Others are neither unpacked nor changed.
  std::function<std::optional<std::vector<std::int64_t>>(std::int64_t count)> drawn = nullptr;

  std::int64_t most_in_memory = most_changed_in_memory;  ///< bytes; more are made when asked for
};

/// Pictures that were read, and what there is to say about it.
struct PicturesReading {
  Dataset data;
  std::string told = {};  ///< in one line: what files said that bytes cannot; empty for nothing
};

/// True for what is read as pictures and not as a table: a folder, an IDX or an NPY file, by what
/// stands in it.
[[nodiscard]] bool holds_pictures(const std::filesystem::path& path);

/// Reads pictures with their classes, those of several places as one set: their classes are matched
/// by name. A folder has either a folder of PNG files for each class,
/// called like it, or `pictures.idx`, `labels.idx` (each may end in `.gz`) and, if wanted,
/// `classes.txt` with a name a line, as `write_pictures` writes them. A file with an axis for each
/// example, rows and columns holds grey pictures, with one more axis channels.
/// @throws FileError, naming the file, for one that cannot be read, an empty folder, pictures of
///         different sizes, other counts of pictures and labels, and labels that are no classes;
///         ShapeError as `changed` does.
[[nodiscard]] PicturesReading read_pictures(const PictureSource& source);

/// Pictures alone, to be asked about: from one IDX or NPY file; or from PNG files, and folders of
/// them; or from a folder as `read_pictures` takes it.
struct PicturesAlone {
  Examples pictures;
  std::vector<std::string> names = {};   ///< the path of each that has a file of its own
  std::vector<std::string> fitted = {};  ///< in lines: which were changed, and what they became
  std::string told = {};
};
[[nodiscard]] PicturesAlone read_pictures_alone(std::span<const std::string> paths,
                                                const PictureChanges& changes);

/// A table of pixels as pictures of a shape [row × column × channel]: the features of a row are the
/// numbers of a picture, the channels of each point side by side.
/// @throws ShapeError when there are other than so many.
[[nodiscard]] Dataset as_pictures(const Dataset& table, const Shape& picture);

/// Writes pictures into a folder: `pictures.idx.gz`, `labels.idx.gz` and `classes.txt`.
void write_pictures(const Dataset& data, const std::filesystem::path& folder);

/// Writes pictures as PNG files, into a folder for each class.
void write_png_folders(const Dataset& data, const std::filesystem::path& folder);

/// `28x28x1`, or `28x28` for one channel. @throws SettingError for another text.
[[nodiscard]] Shape parse_picture_shape(std::string_view text);

}  // namespace lattice
