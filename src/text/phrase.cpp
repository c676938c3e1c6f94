#include "lattice/text/phrase.hpp"

#include <optional>
#include <sstream>
#include <utility>

#include "lattice/text/numbers.hpp"

namespace lattice {

Phrase parse_phrase(std::string_view text) {
  std::istringstream words{std::string(text)};
  Phrase phrase;
  words >> phrase.word;
  for (std::string word; words >> word;) {
    const std::optional<double> number = parse_number(word);
    if (!number) return {.word = std::move(phrase.word), .is_readable = false};
    phrase.numbers.push_back(*number);
  }
  return phrase;
}

}  // namespace lattice
