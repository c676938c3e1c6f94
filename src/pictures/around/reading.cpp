#include "lattice/pictures/around/reading.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <cmath>
#include <optional>
#include <system_error>
#include <utility>

#include "files/file.hpp"
#include "files/path_component.hpp"
#include "files/unpacked.hpp"
#include "lattice/files/idx.hpp"
#include "lattice/files/npy.hpp"
#include "lattice/files/png.hpp"
#include "lattice/text/error.hpp"
#include "lattice/text/letters.hpp"
#include "lattice/text/numbers.hpp"
#include "text/counted.hpp"

namespace lattice {
namespace fs = std::filesystem;
namespace {

constexpr std::string_view what_pictures_are =
    "a folder with a folder of PNG files for each class, an IDX file or an NPY file";

[[noreturn]] void refuse_pictures(const std::string& where, std::string what, std::string expected,
                                  std::string found, std::string remedy = "") {
  throw FileError({.what = std::move(what),
                   .where = where,
                   .expected = std::move(expected),
                   .found = std::move(found),
                   .remedy = std::move(remedy)});
}

enum class Format { idx, npy, png, other };

/// What a file is, by its first bytes.
Format format_of(const fs::path& path) {
  constexpr std::size_t enough_to_unpack = 4096;
  const std::string packed = first_bytes(path, enough_to_unpack);
  std::string head = packed.substr(0, 8);
  if (is_gzipped(packed)) {
    try {
      const std::size_t there =
          Unpacked(packed, path.string()).take(reinterpret_cast<std::uint8_t*>(head.data()), 8);
      head.resize(there);
    } catch (const FileError&) {
      return Format::idx;  // whose reader says what is wrong with it
    }
  }
  if (head.starts_with("\x93NUMPY")) return Format::npy;
  if (head.starts_with("\x89PNG")) return Format::png;
  if (is_gzipped(packed) || head.starts_with(std::string(2, '\0'))) return Format::idx;
  return Format::other;
}

Examples read_grid(const fs::path& path) {
  return format_of(path) == Format::npy ? read_npy(path) : read_idx(path);
}

/// A grid [example × row × column] or [… × channel] with its axes labelled.
Examples labelled_pictures(const Examples& grid, const std::string& path) {
  const Shape& shape = grid.shape();
  if (shape.rank() == 4) return grid.with({Role::example, Role::row, Role::column, Role::channel});
  if (shape.rank() != 3) {
    refuse_pictures(path, "these are no pictures",
                    "an axis of examples, one of rows, one of columns, and for colours one of "
                    "channels",
                    to_string(shape));
  }
  const Shape with_channel = Shape{shape[0], shape[1], shape[2], 1}.with(
      {Role::example, Role::row, Role::column, Role::channel});
  if (!grid.are_bytes()) return grid.all().reshaped(with_channel);
  return Examples::of_bytes(with_channel, {grid.bytes().begin(), grid.bytes().end()});
}

/// The place behind a name in quotes that a text begins with, the line break after it included;
/// none where there is no such name.
std::optional<std::size_t> end_of_quoted(std::string_view text) {
  if (!text.starts_with('"')) return std::nullopt;
  for (std::size_t at = 1; at < text.size(); ++at) {
    if (text[at] != '"') continue;
    if (text.substr(at + 1).starts_with('"')) {
      ++at;
      continue;
    }
    const std::size_t line_end = std::min(text.find('\n', at), text.size());
    if (!trimmed(text.substr(at + 1, line_end - at - 1)).empty()) return std::nullopt;
    return std::min(line_end + 1, text.size());
  }
  return std::nullopt;
}

/// A name as it stands in a list with a name a line: in quotes where it would be read as another
/// one, as a field of a CSV file is (RFC 4180).
std::string as_line(std::string_view name) {
  const bool is_plain = !name.empty() && name == trimmed(name) && !name.starts_with('"') &&
                        name.find_first_of("\r\n") == std::string_view::npos;
  if (is_plain) return std::string(name);
  std::string line = "\"";
  for (const char letter : name)
    line += letter == '"' ? std::string("\"\"") : std::string(1, letter);
  return line + "\"";
}

/// The names in a file, a line each, as `as_line` writes them.
std::vector<std::string> lines_of(const fs::path& path) {
  std::vector<std::string> lines;
  const std::string text = read_file(path, "text, with a name a line");
  if (const auto unwelcome = unwelcome_in(text))
    refuse_pictures(path.string(), "no text", "text in UTF-8, with a name a line", *unwelcome);
  for (std::string_view rest = text; !rest.empty();) {
    if (const std::optional<std::size_t> end = end_of_quoted(rest)) {
      std::string name;
      const std::string_view quoted = trimmed(rest.substr(0, *end));
      for (std::size_t at = 1; at + 1 < quoted.size(); ++at) {
        name += quoted[at];
        if (quoted[at] == '"') ++at;
      }
      lines.push_back(std::move(name));
      rest.remove_prefix(*end);
      continue;
    }
    const std::size_t end = std::min(rest.find('\n'), rest.size());
    const std::string_view line = trimmed(rest.substr(0, end));
    if (!line.empty()) lines.emplace_back(line);
    rest.remove_prefix(std::min(end + 1, rest.size()));
  }
  return lines;
}

/// The classes of pictures, with names.
struct Labels {
  std::vector<double> numbers;
  std::vector<std::string> names;
};

/// Labels as they were written: names in order, or numbers.
Labels labels_of(const std::vector<std::string>& words, const std::vector<std::string>& names) {
  Labels labels{.numbers = {}, .names = names};
  if (names.empty()) {
    labels.names = words;
    std::ranges::sort(labels.names);
    labels.names.erase(std::unique(labels.names.begin(), labels.names.end()), labels.names.end());
  }
  for (const std::string& word : words) {
    const auto found = std::ranges::find(labels.names, word);
    labels.numbers.push_back(static_cast<double>(found - labels.names.begin()));
  }
  return labels;
}

/// Labels that are numbers are the classes' numbers where these have names.
Labels labels_in(const std::string& path, const std::vector<std::string>& names) {
  if (format_of(path) == Format::other) {
    const std::vector<std::string> words = lines_of(path);
    for (std::size_t at = 0; !names.empty() && at < words.size(); ++at) {
      if (std::ranges::find(names, words[at]) != names.end()) continue;
      refuse_pictures(fmt::format("{}, line {}", path, at + 1), "a label outside the classes",
                      fmt::format("one of {}", fmt::join(names, ", ")),
                      fmt::format("'{}'", words[at]));
    }
    return labels_of(words, names);
  }
  const Examples grid = read_grid(path);
  if (grid.shape().rank() != 1) {
    refuse_pictures(path, "these are no labels", "one axis, with a number for each picture",
                    to_string(grid.shape()),
                    grid.shape().rank() > 2 ? "were pictures and labels exchanged?" : "");
  }
  Labels labels{.numbers = grid.numbers(), .names = names};
  const auto classes = static_cast<double>(names.empty() ? 1'000'000 : std::ssize(names));
  for (std::size_t at = 0; at < labels.numbers.size(); ++at) {
    const double number = labels.numbers[at];
    if (number >= 0.0 && number < classes && number == std::floor(number)) continue;
    refuse_pictures(fmt::format("{}, label {}", path, at), "a label outside the classes",
                    fmt::format("a whole number from 0 to {}", classes - 1.0),
                    format_number(number));
  }
  if (names.empty()) {
    const double last = *std::ranges::max_element(labels.numbers);
    for (std::int64_t number = 0; static_cast<double>(number) <= last; ++number)
      labels.names.push_back(fmt::format("{}", number));
  }
  return labels;
}

Dataset dataset_of_pictures(const std::string& name, Examples pictures, Labels labels,
                            const std::string& where) {
  const std::int64_t count = pictures.shape()[0];
  if (std::ssize(labels.numbers) != count) {
    refuse_pictures(where, "pictures and labels are not as many",
                    counted(count, "label") + ", one for each picture",
                    fmt::format("{}", labels.numbers.size()));
  }
  return {.name = name,
          .features = std::move(pictures),
          .classes = tensor(Shape{count}.with({Role::example}), labels.numbers),
          .target_names = {"class"},
          .class_names = std::move(labels.names)};
}

/// Counts what PNG files held that bytes do not.
class Told {
 public:
  void add(const PngPicture& picture) {
    ++(picture.picture.channels == 1 ? grey_ : colour_);
    palette_ += picture.had_palette ? 1 : 0;
    deep_ += picture.had_16_bits ? 1 : 0;
    alpha_ += picture.had_alpha ? 1 : 0;
  }

  /// `60 PNG files: 52 in colour, 8 grey; 3 had 16 bits, of which 8 are kept`.
  [[nodiscard]] std::string text() const {
    std::vector<std::string> parts;
    const auto tell = [&](std::int64_t count, std::string_view what) {
      if (count > 0) parts.push_back(fmt::format("{} {}", count, what));
    };
    tell(colour_, "in colour");
    tell(grey_, "grey");
    tell(palette_, "with a palette");
    tell(deep_, "of 16 bits, reduced to 8");
    tell(alpha_, "see-through, laid on black");
    return fmt::format("{} PNG {}: {}", grey_ + colour_, grey_ + colour_ == 1 ? "file" : "files",
                       fmt::join(parts, ", "));
  }

 private:
  std::int64_t grey_ = 0;
  std::int64_t colour_ = 0;
  std::int64_t palette_ = 0;
  std::int64_t deep_ = 0;
  std::int64_t alpha_ = 0;
};

/// Pictures of one size, one after another.
class Collected {
 public:
  void add(const std::string& path, const Raster& picture, const PictureChanges& changes) {
    const Raster kept = changed(picture, changes);
    if (bytes_.empty()) {
      first_ = path;
      shape_ = kept.shape();
    } else if (kept.shape() != shape_) {
      const bool same_size = kept.rows == shape_[0] && kept.columns == shape_[1];
      refuse_pictures(
          path, same_size ? "grey pictures and pictures in colour" : "pictures of different sizes",
          fmt::format("{}, as {} has", to_string(shape_), first_), to_string(kept.shape()),
          same_size ? "--grey makes all of them grey"
                    : fmt::format("--resize {}x{} brings all to one size", shape_[0], shape_[1]));
    }
    bytes_.insert(bytes_.end(), kept.bytes.begin(), kept.bytes.end());
    ++count_;
  }

  [[nodiscard]] Examples examples() {
    return Examples::of_bytes(shape_.with_first_axis(count_, Role::example), std::move(bytes_));
  }

 private:
  std::string first_;
  Shape shape_;
  std::vector<std::uint8_t> bytes_;
  std::int64_t count_ = 0;
};

/// What stands in a folder, in the order of its names.
std::vector<fs::path> content_of_folder(const fs::path& folder) {
  std::vector<fs::path> paths;
  std::error_code error;
  for (auto entry = fs::directory_iterator(folder, error);
       !error && entry != fs::directory_iterator(); entry.increment(error)) {
    const std::string name = entry->path().filename().string();
    if (!name.starts_with('.')) paths.push_back(entry->path());
  }
  if (error) {
    refuse_pictures(folder.string(), "cannot read the folder", std::string(what_pictures_are),
                    error.message());
  }
  std::ranges::sort(paths);
  return paths;
}

/// Calls `look` with each PNG file of a folder, and with what is called like one.
template <class Look>
void each_png_in(const fs::path& folder, Look look) {
  for (const fs::path& path : content_of_folder(folder)) {
    // A pipe or a device is no picture, whatever it is called.
    if (!is_plain_file(path)) continue;
    if (format_of(path) == Format::png || path.extension() == ".png") look(path);
  }
}

std::string name_of_folder(const fs::path& folder) {
  const fs::path plain = (folder / "").parent_path();
  return harmless(plain.filename().empty() ? plain.string() : plain.filename().string());
}

/// The class that a folder stands for.
std::string class_of_folder(const fs::path& folder) {
  std::string name = name_of_component(folder.filename().string());
  if (const auto unwelcome = unwelcome_in(name)) {
    refuse_pictures(folder.string(), "the name of a folder is no name of a class",
                    "letters, digits and signs", *unwelcome, "give the folder another name");
  }
  return name;
}

/// The file of a name in a folder, gzipped or not; empty where there is none.
fs::path file_in(const fs::path& folder, const std::string& name) {
  for (const std::string_view ending : {"", ".gz"}) {
    fs::path path = folder / fmt::format("{}{}", name, ending);
    if (is_plain_file(path)) return path;
  }
  return {};
}

PicturesReading read_class_folders(const PictureSource& source) {
  Collected pictures;
  Told told;
  std::vector<std::string> words;
  for (const fs::path& folder : content_of_folder(source.path)) {
    if (!is_folder(folder)) continue;
    const std::string name = class_of_folder(folder);
    each_png_in(folder, [&](const fs::path& path) {
      const PngPicture read = read_png(path);
      told.add(read);
      pictures.add(path.string(), read.picture, source.changes);
      words.push_back(name);
    });
  }
  if (words.empty()) {
    refuse_pictures(source.path, "no pictures in this folder",
                    "a folder of PNG files for each class, called like it; or pictures.idx and "
                    "labels.idx",
                    "neither");
  }
  const Labels labels = labels_of(words, {});
  if (labels.names.size() < 2) {
    refuse_pictures(source.path, "pictures of a single class", "a folder for each class",
                    fmt::format("{} alone", labels.names.front()));
  }
  return {.data = dataset_of_pictures(name_of_folder(source.path), pictures.examples(), labels,
                                      source.path),
          .told = told.text()};
}

PicturesReading read_grids(const PictureSource& source, const std::string& name) {
  const Examples pictures = labelled_pictures(read_grid(source.path), source.path);
  if (source.labels.empty()) {
    refuse_pictures(source.path, "pictures without labels", "a file with the class of each", "none",
                    "--labels labels.idx");
  }
  return {.data = dataset_of_pictures(name, changed(pictures, source.changes),
                                      labels_in(source.labels, source.class_names),
                                      fmt::format("{} and {}", source.path, source.labels))};
}

/// What pictures became by the changes, each way told once.
class Fitted {
 public:
  void add(const std::string& path, const Shape& before, const Shape& after) {
    if (before == after) return;
    const std::string change = fmt::format("{} became {}", to_string(before), to_string(after));
    const auto found = std::ranges::find(ways_, change, &Way::change);
    Way& way = found == ways_.end() ? ways_.emplace_back(Way{change, path}) : *found;
    ++way.count;
  }

  [[nodiscard]] std::vector<std::string> lines() const {
    std::vector<std::string> lines;
    for (const Way& way : ways_) {
      const std::string who =
          way.count == 1 ? way.first : fmt::format("{} and {} more", way.first, way.count - 1);
      lines.push_back(fmt::format("{}: {}", who, way.change));
    }
    return lines;
  }

 private:
  struct Way {
    std::string change;
    std::string first;
    std::int64_t count = 0;
  };
  std::vector<Way> ways_;
};

}  // namespace

bool holds_pictures(const fs::path& path) {
  if (is_folder(path)) return true;
  if (!is_plain_file(path)) return false;
  const Format format = format_of(path);
  return format == Format::idx || format == Format::npy;
}

PicturesReading read_pictures(const PictureSource& source) {
  if (!is_folder(source.path)) {
    if (format_of(source.path) == Format::png) {
      refuse_pictures(source.path, "a single picture", std::string(what_pictures_are), "a PNG file",
                      "put it into the folder of its class, and name the folder around that");
    }
    fs::path name = fs::path(source.path).filename();
    while (!name.extension().empty())
      name = name.stem();
    return read_grids(source, harmless(name.string()));
  }
  const fs::path pictures = file_in(source.path, "pictures.idx");
  const fs::path labels = file_in(source.path, "labels.idx");
  if (pictures.empty() || labels.empty()) return read_class_folders(source);
  PictureSource files = source;
  files.path = pictures.string();
  files.labels = labels.string();
  const fs::path names = fs::path(source.path) / "classes.txt";
  if (files.class_names.empty() && is_plain_file(names)) files.class_names = lines_of(names);
  return read_grids(files, name_of_folder(source.path));
}

namespace {

/// A grid, or a folder of one.
fs::path grid_in(const std::string& path) {
  const fs::path grid = is_folder(path) ? file_in(path, "pictures.idx") : fs::path(path);
  return !grid.empty() && holds_pictures(grid) ? grid : fs::path();
}

/// Files as they are, and those of a folder and of the folders in it.
std::vector<std::string> png_files_of(std::span<const std::string> paths) {
  std::vector<std::string> files;
  for (const std::string& path : paths) {
    if (!is_folder(path)) {
      files.push_back(path);
      continue;
    }
    const std::size_t before = files.size();
    each_png_in(path, [&](const fs::path& file) { files.push_back(file.string()); });
    for (const fs::path& folder : content_of_folder(path)) {
      if (!is_folder(folder)) continue;
      each_png_in(folder, [&](const fs::path& file) { files.push_back(file.string()); });
    }
    if (files.size() > before) continue;
    if (!file_in(path, "pictures.idx").empty()) {
      refuse_pictures(path, "pictures.idx among other pictures", "PNG files, or one pictures.idx",
                      "both", "ask about its folder by itself");
    }
    refuse_pictures(path, "no pictures in this folder", "PNG files, or pictures.idx", "neither");
  }
  return files;
}

}  // namespace

PicturesAlone read_pictures_alone(std::span<const std::string> paths,
                                  const PictureChanges& changes) {
  PicturesAlone alone;
  const fs::path grid = paths.size() == 1 ? grid_in(paths.front()) : fs::path();
  if (!grid.empty()) {
    const Examples read = labelled_pictures(read_grid(grid), grid.string());
    alone.pictures = changed(read, changes);
    Fitted ways;
    ways.add(grid.string(), read.shape().without_first_axis(),
             alone.pictures.shape().without_first_axis());
    alone.fitted = ways.lines();
    return alone;
  }
  Collected pictures;
  Told told;
  Fitted ways;
  for (const std::string& path : png_files_of(paths)) {
    const PngPicture read = read_png(path);
    told.add(read);
    const Raster kept = changed(read.picture, changes);
    pictures.add(path, kept, {});
    alone.names.push_back(path);
    ways.add(path, read.picture.shape(), kept.shape());
  }
  alone.fitted = ways.lines();
  alone.pictures = pictures.examples();
  alone.told = told.text();
  return alone;
}

Dataset as_pictures(const Dataset& table, const Shape& picture) {
  const std::int64_t width = table.feature_count();
  if (width != picture.count()) {
    throw ShapeError(
        {.what = fmt::format("the rows of {} do not fit pictures of this size", table.name),
         .expected = fmt::format("{} columns for {}", picture.count(), to_string(picture)),
         .found = fmt::format("{}, in addition to the target", width),
         .remedy = "--picture ROWSxCOLUMNSxCHANNELS"});
  }
  const Shape shape = picture.with_first_axis(table.rows(), Role::example);
  const std::vector<double> numbers = table.features.numbers();
  constexpr double most = 255.0;
  const bool are_bytes = std::ranges::all_of(numbers, [](double number) {
    return number >= 0.0 && number <= most && number == std::floor(number);
  });
  Dataset pictures = table;
  pictures.columns = table.columns_or_features();
  pictures.feature_names.clear();
  pictures.feature_units.clear();
  if (are_bytes) {
    pictures.features = Examples::of_bytes(shape, {numbers.begin(), numbers.end()});
  } else {
    pictures.features = tensor(shape, numbers);
  }
  return pictures;
}

namespace {

void make_folder(const fs::path& folder) {
  std::error_code error;
  fs::create_directories(folder, error);
  if (error) {
    refuse_pictures(folder.string(), "cannot make the folder", "a place that can be written to",
                    error.message());
  }
}

/// The classes as bytes, where there are no more than bytes can tell apart.
Examples labels_to_write(const Dataset& data) {
  constexpr std::int64_t most_of_bytes = 256;
  if (data.class_count() > most_of_bytes) return data.classes;
  const std::vector<double> numbers = data.classes.numbers();
  return Examples::of_bytes(Shape{data.rows()}, {numbers.begin(), numbers.end()});
}

void check_are_pictures(const Dataset& data) {
  const Shape example = data.example();
  if (example.rank() == 3 && data.features.are_bytes() && data.has_classes()) return;
  throw ShapeError({.what = fmt::format("{} cannot be written as pictures", data.name),
                    .expected = "pictures [row × column × channel] of bytes, with classes",
                    .found = to_string(example)});
}

}  // namespace

void write_pictures(const Dataset& data, const fs::path& folder) {
  check_are_pictures(data);
  make_folder(folder);
  const Shape& shape = data.features.shape();
  const auto bytes = data.features.bytes();
  const Shape grid = shape[3] == 1 ? Shape{shape[0], shape[1], shape[2]} : shape;
  write_file(folder / "pictures.idx.gz",
             gzipped(to_idx(Examples::of_bytes(grid, {bytes.begin(), bytes.end()}))));
  write_file(folder / "labels.idx.gz", gzipped(to_idx(labels_to_write(data))));
  std::string names;
  for (const std::string& name : data.all_class_names())
    names += as_line(name) + "\n";
  write_file(folder / "classes.txt", names);
}

void write_png_folders(const Dataset& data, const fs::path& folder) {
  check_are_pictures(data);
  const Shape example = data.example();
  const auto size = static_cast<std::size_t>(example.count());
  std::vector<fs::path> folders;
  for (const std::string& name : data.all_class_names()) {
    folders.push_back(folder / path_component(name));
    make_folder(folders.back());
  }
  for (std::int64_t row = 0; row < data.rows(); ++row) {
    const fs::path& of_class = folders[static_cast<std::size_t>(data.classes.at_offset(row))];
    const auto bytes = data.features.bytes().subspan(static_cast<std::size_t>(row) * size, size);
    write_file(of_class / fmt::format("{:05}.png", row),
               to_png({.rows = example[0],
                       .columns = example[1],
                       .channels = example[2],
                       .bytes = {bytes.begin(), bytes.end()}}));
  }
}

Shape parse_picture_shape(std::string_view text) {
  constexpr std::int64_t most = 100'000;
  std::vector<std::int64_t> extents;
  for (std::string_view rest = text; !rest.empty();) {
    const std::size_t by = std::min(rest.find('x'), rest.size());
    const std::optional<std::int64_t> extent = parse_whole_number(rest.substr(0, by));
    if (!extent || *extent < 1 || *extent > most) break;
    extents.push_back(*extent);
    rest.remove_prefix(by);
    if (rest.size() > 1) rest.remove_prefix(1);
  }
  const std::string again = fmt::format("{}", fmt::join(extents, "x"));
  if (again != text || extents.size() < 2 || extents.size() > 3) {
    throw SettingError({.what = "this is not the shape of a picture",
                        .expected = "rows, columns and channels, such as 28x28x1",
                        .found = fmt::format("'{}'", text)});
  }
  if (extents.size() == 2) extents.push_back(1);
  return Shape(std::span<const std::int64_t>(extents))
      .with({Role::row, Role::column, Role::channel});
}

}  // namespace lattice
