// Writes a CSV copy of each demo set, at its usual size and from its usual seed, into a folder; and
// the glazes sorted by what they are, for the lesson about the order of rows.

#include <algorithm>
#include <cstdint>
#include <filesystem>
#include <fstream>
#include <iostream>
#include <numeric>
#include <vector>

#include "lattice/data/demo_sets.hpp"
#include "lattice/files/csv.hpp"

namespace {

/// The rows of a dataset, class after class.
lattice::Dataset sorted_by_class(const lattice::Dataset& data) {
  std::vector<std::int64_t> rows(static_cast<std::size_t>(data.rows()));
  std::iota(rows.begin(), rows.end(), std::int64_t{0});
  std::ranges::stable_sort(rows, {}, [&](std::int64_t row) { return data.classes.at_offset(row); });
  return data.taking(rows);
}

bool write(const std::filesystem::path& path, const lattice::Dataset& data) {
  std::ofstream file(path, std::ios::binary);
  file << lattice::to_csv(data);
  file.close();
  (file ? std::cout : std::cerr) << (file ? "" : "cannot write ") << path.string() << "\n";
  return static_cast<bool>(file);
}

}  // namespace

int main(int count, char** arguments) {
  if (count != 2) {
    std::cerr << "make_demo_data FOLDER\n";
    return 2;
  }
  const std::filesystem::path folder = arguments[1];
  for (const lattice::DemoSet& set : lattice::demo_sets()) {
    if (!write(folder / (set.name + ".csv"), lattice::demo_set(set.name))) return 3;
  }
  return write(folder / "glazes_sorted.csv", sorted_by_class(lattice::demo_set("glazes"))) ? 0 : 3;
}
