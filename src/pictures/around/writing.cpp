#include <fmt/format.h>

#include <system_error>
#include <vector>

#include "files/file.hpp"
#include "files/path_component.hpp"
#include "lattice/files/idx.hpp"
#include "lattice/files/png.hpp"
#include "lattice/pictures/around/reading.hpp"
#include "lattice/text/error.hpp"
#include "pictures/around/picture_files.hpp"

namespace lattice {
namespace fs = std::filesystem;
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
  const Examples pictures = data.features.in_memory();
  const auto bytes = pictures.bytes();
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
    std::vector<std::uint8_t> bytes(size);
    data.features.copy_bytes(row, bytes);
    write_file(of_class / fmt::format("{:05}.png", row), to_png({.rows = example[0],
                                                                 .columns = example[1],
                                                                 .channels = example[2],
                                                                 .bytes = std::move(bytes)}));
  }
}

}  // namespace lattice
