// Writes a copy of each demo set, from its usual seed, into a folder: tables as CSV, a graph's
// edges as another, the stamps as IDX and the tiles as PNG files by pattern, the first rows of
// each; and the glazes sorted by what they are, for the lesson about the order of rows.

#include <algorithm>
#include <cstdint>
#include <filesystem>
#include <fstream>
#include <iostream>
#include <numeric>
#include <string>
#include <vector>

#include "lattice/data/demo_sets.hpp"
#include "lattice/files/csv.hpp"
#include "lattice/graphs/around/edges.hpp"
#include "lattice/graphs/around/subject.hpp"
#include "lattice/pictures/around/reading.hpp"
#include "lattice/pictures/around/subject.hpp"

namespace {

/// The rows of a dataset, class after class.
lattice::Dataset sorted_by_class(const lattice::Dataset& data) {
  std::vector<std::int64_t> rows(static_cast<std::size_t>(data.rows()));
  std::iota(rows.begin(), rows.end(), std::int64_t{0});
  std::ranges::stable_sort(rows, {}, [&](std::int64_t row) { return data.classes.at_offset(row); });
  return data.taking(rows);
}

bool write_text(const std::filesystem::path& path, const std::string& text) {
  std::ofstream file(path, std::ios::binary);
  file << text;
  file.close();
  (file ? std::cout : std::cerr) << (file ? "" : "cannot write ") << path.string() << "\n";
  return static_cast<bool>(file);
}

bool write_copy(const std::filesystem::path& folder, const lattice::DemoSet& set) {
  const lattice::Dataset data = lattice::demo_set(set.name, set.copied_rows, set.usual_seed);
  if (data.is_connected() &&
      !write_text(folder / (set.name + "_edges.csv"), lattice::to_csv(lattice::edges_table(data))))
    return false;
  if (data.is_table()) return write_text(folder / (set.name + ".csv"), lattice::to_csv(data));
  if (data.example()[2] == 1) {
    lattice::write_pictures(data, folder / set.name);
  } else {
    lattice::write_png_folders(data, folder / set.name);
  }
  std::cout << (folder / set.name).string() << "\n";
  return true;
}

}  // namespace

int main(int count, char** arguments) {
  lattice::use_pictures_around();
  lattice::use_graphs_around();
  if (count != 2) {
    std::cerr << "make_demo_data FOLDER\n";
    return 2;
  }
  const std::filesystem::path folder = arguments[1];
  for (const lattice::DemoSet& set : lattice::demo_sets()) {
    if (!write_copy(folder, set)) return 3;
  }
  const lattice::Dataset sorted = sorted_by_class(lattice::demo_set("glazes"));
  return write_text(folder / "glazes_sorted.csv", lattice::to_csv(sorted)) ? 0 : 3;
}
