#include "lattice/pictures/around/reading.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <cmath>
#include <memory>
#include <numeric>
#include <optional>
#include <system_error>
#include <utility>

#include "data/hash.hpp"
#include "files/file.hpp"
#include "files/path_component.hpp"
#include "lattice/files/png.hpp"
#include "lattice/text/error.hpp"
#include "lattice/text/letters.hpp"
#include "lattice/text/nearest.hpp"
#include "lattice/text/numbers.hpp"
#include "pictures/around/picture_files.hpp"
#include "text/counted.hpp"

namespace lattice {
namespace fs = std::filesystem;
namespace {

/// Counts what PNG files held that bytes do not.
class ReadingSummary {
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
    if (grey_ + colour_ == 0) return "";
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

/// Sees to it that pictures have one shape.
class SameShape {
 public:
  /// @throws FileError for another shape than that of the first.
  void add(const std::string& path, const Shape& shape) {
    if (first_.empty()) {
      first_ = path;
      shape_ = shape;
    }
    if (shape == shape_) return;
    const bool same_size = shape[0] == shape_[0] && shape[1] == shape_[1];
    refuse_pictures(
        path, same_size ? "grey pictures and pictures in colour" : "pictures of different sizes",
        fmt::format("{}, as {} has", to_string(shape_), first_), to_string(shape),
        same_size ? "--grey makes all of them grey"
                  : fmt::format("--resize {}x{} brings all to one size", shape_[0], shape_[1]));
  }

  [[nodiscard]] const Shape& shape() const { return shape_; }

 private:
  std::string first_;
  Shape shape_;
};

/// Pictures of one size, one after another.
class Collected {
 public:
  void add(const std::string& path, const Raster& kept) {
    same_.add(path, kept.shape());
    bytes_.insert(bytes_.end(), kept.bytes.begin(), kept.bytes.end());
    ++count_;
  }

  [[nodiscard]] Examples examples() {
    return Examples::of_bytes(same_.shape().with_first_axis(count_, Role::example),
                              std::move(bytes_));
  }

 private:
  SameShape same_;
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
    if (format_of(path) == PictureFormat::png || path.extension() == ".png") look(path);
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

/// PNG files that are read whenever their pictures are asked for.
class PngFiles final : public ExampleSource {
 public:
  PngFiles(std::vector<std::string> files, std::vector<std::uint64_t> hashes, Shape shape,
           const PictureChanges& changes)
      : files_(std::move(files)), hashes_(std::move(hashes)), shape_(shape), changes_(changes) {}

  void write(std::int64_t example, std::span<std::uint8_t> to) const override {
    const auto at = static_cast<std::size_t>(example);
    const Raster picture = changed(read_png(files_[at]).picture, changes_);
    if (picture.shape() != shape_ || hash_of(picture.bytes) != hashes_[at]) {
      refuse_pictures(files_[at], "the picture was changed while it was in use",
                      "the picture that was there before", "another one",
                      "leave the files as they are until the end");
    }
    std::ranges::copy(picture.bytes, to.begin());
  }

  [[nodiscard]] std::uint64_t fingerprint(std::int64_t example) const override {
    return hashes_[static_cast<std::size_t>(example)];
  }

 private:
  std::vector<std::string> files_;
  std::vector<std::uint64_t> hashes_;  ///< of the changed pictures
  Shape shape_;
  PictureChanges changes_;
};

/// The pictures of PNG files: in memory as long as they are not too many, else read again.
Examples pictures_in(const std::vector<std::string>& files, const PictureSource& source,
                     SameShape& same, ReadingSummary& told) {
  std::vector<std::uint8_t> bytes;
  std::vector<std::uint64_t> hashes;
  bool are_in_memory = true;
  for (const std::string& path : files) {
    const PngPicture read = read_png(path);
    told.add(read);
    const Raster kept = changed(read.picture, source.changes);
    same.add(path, kept.shape());
    hashes.push_back(hash_of(kept.bytes));
    are_in_memory =
        are_in_memory && std::ssize(bytes) + std::ssize(kept.bytes) <= source.most_in_memory;
    if (are_in_memory) bytes.insert(bytes.end(), kept.bytes.begin(), kept.bytes.end());
  }
  const Shape shape = same.shape().with_first_axis(std::ssize(files), Role::example);
  if (are_in_memory) return Examples::of_bytes(shape, std::move(bytes));
  return Examples::made_by(
      std::make_shared<const PngFiles>(files, std::move(hashes), same.shape(), source.changes),
      shape);
}

/// What is in one place: pictures of a file as they are there, or PNG files; and their classes.
struct Found {
  std::string path;
  std::string name;
  Examples grid = {};
  std::vector<std::string> files = {};
  Labels labels = {};

  [[nodiscard]] std::int64_t count() const { return std::ssize(labels.numbers); }
};

/// The name of a file without its endings.
std::string name_of_file(fs::path path) {
  path = path.filename();
  while (!path.extension().empty())
    path = path.stem();
  return harmless(path.string());
}

void check_as_many(const Found& found, const std::string& labels) {
  const std::int64_t count = found.grid.shape()[0];
  if (found.count() == count) return;
  refuse_pictures(
      fmt::format("{} and {}", found.path, labels), "pictures and labels are not as many",
      counted(count, "label") + ", one for each picture", fmt::format("{}", found.count()));
}

/// Pictures that are all of one class.
Found find_of_class(const PicturePlace& place) {
  Found found{
      .path = place.path,
      .name = is_folder(place.path) ? name_of_folder(place.path) : name_of_file(place.path)};
  if (is_folder(place.path)) {
    const fs::path grid = file_in(place.path, "pictures.idx");
    if (!grid.empty()) {
      found.grid = read_grid_of_pictures(grid.string());
    } else {
      each_png_in(place.path, [&](const fs::path& file) { found.files.push_back(file.string()); });
    }
  } else if (format_of(place.path) == PictureFormat::png) {
    found.files = {place.path};
  } else {
    found.grid = read_grid_of_pictures(place.path);
  }
  const auto count = found.grid.empty() ? std::ssize(found.files) : found.grid.shape()[0];
  if (count == 0) {
    refuse_pictures(place.path, fmt::format("no pictures for the class '{}'", place.class_name),
                    "PNG files, or pictures.idx", "neither");
  }
  found.labels = {.numbers = std::vector<double>(static_cast<std::size_t>(count)),
                  .names = {place.class_name}};
  return found;
}

/// The PNG files in a folder for each class.
Found find_in_class_folders(const std::string& path) {
  Found found{.path = path, .name = name_of_folder(path)};
  for (const fs::path& folder : content_of_folder(path)) {
    if (!is_folder(folder)) continue;
    const std::string name = class_of_folder(folder);
    each_png_in(folder, [&](const fs::path& file) {
      if (found.labels.names.empty() || found.labels.names.back() != name)
        found.labels.names.push_back(name);
      found.labels.numbers.push_back(static_cast<double>(found.labels.names.size() - 1));
      found.files.push_back(file.string());
    });
  }
  if (!found.files.empty()) return found;
  refuse_pictures(path, "no pictures in this folder",
                  "a folder of PNG files for each class, called like it; or pictures.idx and "
                  "labels.idx",
                  "neither");
}

Found find_in_grid(const std::string& path, const std::string& labels, std::string name,
                   const std::vector<std::string>& class_names) {
  Found found{.path = path, .name = std::move(name), .grid = read_grid_of_pictures(path)};
  if (labels.empty()) {
    refuse_pictures(path, "pictures without labels", "a file with the class of each", "none",
                    "--labels labels.idx, or a class for all of them: bowl=" + path);
  }
  found.labels = labels_in(labels, class_names);
  check_as_many(found, labels);
  return found;
}

Found find_in(const PicturePlace& place, const std::vector<std::string>& class_names) {
  if (!place.class_name.empty()) return find_of_class(place);
  if (!is_folder(place.path)) {
    if (format_of(place.path) == PictureFormat::png) {
      refuse_pictures(place.path, "a single picture", std::string(what_pictures_are), "a PNG file",
                      "put it into the folder of its class, and name the folder around that");
    }
    return find_in_grid(place.path, place.labels, name_of_file(place.path), class_names);
  }
  const fs::path pictures = file_in(place.path, "pictures.idx");
  const fs::path labels = file_in(place.path, "labels.idx");
  if (pictures.empty() || labels.empty()) return find_in_class_folders(place.path);
  const fs::path names = fs::path(place.path) / "classes.txt";
  return find_in_grid(pictures.string(), labels.string(), name_of_folder(place.path),
                      class_names.empty() && is_plain_file(names) ? lines_of(names) : class_names);
}

/// The number of a class among the names: that of the name; or, where all names were given, the
/// number that it is.
double number_of_class(const std::string& name, std::vector<std::string>& names, bool are_given,
                       const std::string& where) {
  const auto found = std::ranges::find(names, name);
  if (found != names.end()) return static_cast<double>(found - names.begin());
  if (!are_given) {
    names.push_back(name);
    return static_cast<double>(names.size() - 1);
  }
  const std::optional<std::int64_t> number = parse_whole_number(name);
  if (number && *number >= 0 && *number < std::ssize(names)) return static_cast<double>(*number);
  Trouble trouble = not_among(fmt::format("'{}' is none of the classes", name), name, names);
  trouble.where = where;
  throw NameError(trouble);
}

/// The classes of all places, matched by name.
Labels labels_of_all(const std::vector<Found>& all, const PictureSource& source) {
  Labels labels{.numbers = {}, .names = source.class_names};
  for (const Found& found : all) {
    std::vector<double> number_of;
    for (const std::string& name : found.labels.names) {
      number_of.push_back(
          number_of_class(name, labels.names, !source.class_names.empty(), found.path));
    }
    for (const double number : found.labels.numbers)
      labels.numbers.push_back(number_of[static_cast<std::size_t>(number)]);
  }
  if (labels.names.size() < 2 && !source.may_be_one_class) {
    refuse_pictures(all.front().path, "pictures of a single class",
                    "two classes or more: a folder for each, or a file for each",
                    fmt::format("{} alone", labels.names.front()),
                    "add the pictures of another class: --file other=backgrounds");
  }
  return labels;
}

/// The numbers of the pictures that are kept.
std::vector<std::int64_t> kept_of(std::int64_t count, const PictureSource& source) {
  if (source.drawn) {
    if (std::optional<std::vector<std::int64_t>> drawn = source.drawn(count)) return *drawn;
  }
  std::vector<std::int64_t> all(static_cast<std::size_t>(count));
  std::iota(all.begin(), all.end(), 0);
  return all;
}

/// The pictures of one place with these numbers, as they are used.
Examples pictures_of(const Found& found, const std::vector<std::int64_t>& rows,
                     const PictureSource& source, SameShape& same, ReadingSummary& told) {
  if (found.grid.empty()) {
    std::vector<std::string> files;
    files.reserve(rows.size());
    for (const std::int64_t row : rows)
      files.push_back(found.files[static_cast<std::size_t>(row)]);
    return pictures_in(files, source, same, told);
  }
  const bool are_all = std::ssize(rows) == found.count();
  Examples pictures = changed(are_all ? found.grid : found.grid.taking(rows), source.changes,
                              source.most_in_memory);
  same.add(found.path, pictures.shape().without_first_axis());
  return pictures;
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
  const PictureFormat format = format_of(path);
  return format == PictureFormat::idx || format == PictureFormat::npy;
}

PicturesReading read_pictures(const PictureSource& source) {
  std::vector<Found> all;
  all.reserve(source.places.size());
  for (const PicturePlace& place : source.places)
    all.push_back(find_in(place, source.class_names));
  const Labels labels = labels_of_all(all, source);
  const std::vector<std::int64_t> kept = kept_of(std::ssize(labels.numbers), source);
  Examples pictures;
  SameShape same;
  ReadingSummary told;
  auto next = kept.begin();
  std::int64_t first = 0;
  for (const Found& found : all) {
    std::vector<std::int64_t> rows;
    for (; next != kept.end() && *next < first + found.count(); ++next)
      rows.push_back(*next - first);
    first += found.count();
    if (!rows.empty())
      pictures = pictures.followed_by(pictures_of(found, rows, source, same, told));
  }
  std::vector<double> classes;
  classes.reserve(kept.size());
  for (const std::int64_t row : kept)
    classes.push_back(labels.numbers[static_cast<std::size_t>(row)]);
  std::string name = all.front().name;
  if (all.size() == 2) name += " and " + all[1].name;
  if (all.size() > 2) name += fmt::format(" and {} more", all.size() - 1);
  return {.data = {.name = std::move(name),
                   .features = std::move(pictures),
                   .classes = tensor(Shape{std::ssize(classes)}.with({Role::example}), classes),
                   .target_names = {"class"},
                   .class_names = labels.names},
          .told = told.text()};
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
    const Examples read = read_grid_of_pictures(grid.string());
    alone.pictures = changed(read, changes);
    Fitted ways;
    ways.add(grid.string(), read.shape().without_first_axis(),
             alone.pictures.shape().without_first_axis());
    alone.fitted = ways.lines();
    return alone;
  }
  Collected pictures;
  ReadingSummary told;
  Fitted ways;
  for (const std::string& path : png_files_of(paths)) {
    const PngPicture read = read_png(path);
    told.add(read);
    const Raster kept = changed(read.picture, changes);
    pictures.add(path, kept);
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
