#pragma once

#include <string>
#include <string_view>
#include <vector>

namespace lattice {

/// A word and the numbers after it: `steps 10 0.5`.
struct Phrase {
  std::string word = {};
  std::vector<double> numbers = {};

  /// False if something after the word is not a number; then all other members are empty.
  bool is_readable = true;
};

[[nodiscard]] Phrase parse_phrase(std::string_view text);

}  // namespace lattice
