#pragma once

#include <string>
#include <string_view>
#include <vector>

namespace lattice {

/// A word and the numbers after it: `steps 10 0.5`.
struct Phrase {
  std::string word = {};
  std::vector<double> numbers = {};

  /// False when something after the word is no number; there is nothing else to it then.
  bool is_readable = true;
};

[[nodiscard]] Phrase parse_phrase(std::string_view text);

}  // namespace lattice
