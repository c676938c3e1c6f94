#pragma once

#include <random>
#include <string>

#include "support/command.hpp"

/// What is learnt from in tests of the command.
namespace lattice::testing {

/// A run on a demo set.
inline const Words glazes = {
    "train",  "glazes", "--rows", "300",  "--net",   "dense 8, tanh, dense 4",
    "--rule", "adam",   "--rate", "0.01", "--batch", "16"};

/// A table as people have them: numbers and words, quotes, a kind to tell.
inline std::string made_up_table(int rows) {
  std::mt19937 random(5);
  std::normal_distribution<double> bell;
  std::string text = "id,\"wall, mm\",clay,hours,place,kind\n";
  const std::vector<std::string> clays = {"red", "white", "grey"};
  const std::vector<std::string> kinds = {"bowl", "jug", "vase", "plate", "cup"};
  for (int row = 0; row < rows; ++row) {
    const auto kind = static_cast<std::size_t>(row % 5);
    const auto number = static_cast<double>(kind);
    text += "pot" + std::to_string(row) + "," + std::to_string(4 + number + bell(random) * 0.3) +
            "," + clays[(kind + static_cast<std::size_t>(row / 50 % 2)) % 3] + "," +
            std::to_string(100 * (2 - number) + 20 * bell(random)) + ",\"shelf \"\"" +
            std::to_string(row % 3) + "\"\"\"," + kinds[kind] + "\n";
  }
  return text;
}

}  // namespace lattice::testing
