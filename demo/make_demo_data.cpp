// Writes a CSV copy of each demo set, at its usual size and from its usual seed, into a folder.

#include <filesystem>
#include <fstream>
#include <iostream>

#include "lattice/data/demo_sets.hpp"
#include "lattice/files/csv.hpp"

int main(int count, char** arguments) {
  if (count != 2) {
    std::cerr << "make_demo_data FOLDER\n";
    return 2;
  }
  for (const lattice::DemoSet& set : lattice::demo_sets()) {
    const auto path = std::filesystem::path(arguments[1]) / (set.name + ".csv");
    std::ofstream file(path, std::ios::binary);
    file << lattice::to_csv(lattice::demo_set(set.name));
    file.close();
    if (!file) {
      std::cerr << "cannot write " << path << "\n";
      return 3;
    }
    std::cout << path.string() << "\n";
  }
}
