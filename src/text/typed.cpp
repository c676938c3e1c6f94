#include "text/typed.hpp"

#include <fmt/format.h>

#include <algorithm>

namespace lattice {
namespace {

bool is_sign_of_control(char letter) {
  const auto byte = static_cast<unsigned char>(letter);
  return byte < 0x20U || byte == 0x7FU;
}

/// Letters and digits, whatever the locale says; a letter beyond ASCII is no sign of a shell's.
bool is_plain(char letter) {
  const bool is_letter = (letter >= 'a' && letter <= 'z') || (letter >= 'A' && letter <= 'Z');
  return is_letter || (letter >= '0' && letter <= '9') ||
         static_cast<unsigned char>(letter) >= 128 ||
         std::string_view("_-./,:=+@%").find(letter) != std::string_view::npos;
}

}  // namespace

std::string typed(std::string_view word) {
  if (!word.empty() && std::ranges::all_of(word, is_plain)) return std::string(word);
  const bool has_control = std::ranges::any_of(word, is_sign_of_control);
  std::string text = has_control ? "$'" : "'";
  for (const char letter : word) {
    if (is_sign_of_control(letter)) {
      text += fmt::format("\\{:03o}", static_cast<unsigned char>(letter));
    } else if (has_control && (letter == '\'' || letter == '\\')) {
      text += {'\\', letter};
    } else if (letter == '\'') {
      text += "'\\''";
    } else {
      text += letter;
    }
  }
  return text + "'";
}

std::string typed_flag(std::string_view flag, std::string_view value) {
  return fmt::format("{}{}{}", flag, value.starts_with('-') ? '=' : ' ', typed(value));
}

}  // namespace lattice
