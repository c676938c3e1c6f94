#include "lattice/text/letters.hpp"

#include <fmt/format.h>

#include <algorithm>

namespace lattice {
namespace {

/// A letter of a text in UTF-8.
struct Letter {
  char32_t code = 0;
  std::size_t bytes = 1;
  bool is_one = false;  ///< false for a byte that belongs to no letter
};

/// The letter that a text, which is not empty, begins with.
/// Source: RFC 3629, table of well-formed sequences.
Letter first_letter(std::string_view text) {
  const auto byte = [&](std::size_t at) { return static_cast<unsigned char>(text[at]); };
  const unsigned char first = byte(0);
  if (first < 0x80U) return {.code = first, .bytes = 1, .is_one = true};
  const std::size_t bytes = first >= 0xF0U ? 4 : first >= 0xE0U ? 3 : 2;
  if (first < 0xC2U || first > 0xF4U || text.size() < bytes) return {};
  char32_t code = first & (0xFFU >> (bytes + 1));
  for (std::size_t at = 1; at < bytes; ++at) {
    if ((byte(at) & 0xC0U) != 0x80U) return {};
    code = code << 6U | (byte(at) & 0x3FU);
  }
  const bool is_overlong = (bytes == 3 && code < 0x800U) || (bytes == 4 && code < 0x10000U);
  const bool is_half = code >= 0xD800U && code <= 0xDFFFU;
  if (is_overlong || is_half || code > 0x10FFFFU) return {};
  return {.code = code, .bytes = bytes, .is_one = true};
}

bool is_control(char32_t code) {
  return code < 0x20U || (code >= 0x7FU && code < 0xA0U);
}

/// U+FFFE and U+FFFF: no text has them, and XML forbids them.
bool is_no_letter(char32_t code) {
  return code == 0xFFFEU || code == 0xFFFFU;
}

/// Separators of lines and paragraphs, and what turns the direction of writing around.
bool upsets_a_line(char32_t code) {
  return (code >= 0x2028U && code <= 0x202EU) || (code >= 0x2066U && code <= 0x2069U);
}

/// So many bytes are looked at together.
constexpr std::size_t together = 64;

/// A number of bytes that a text begins with, all of which are letters, digits and signs of ASCII
/// or line breaks: as many times `together` as are.
std::size_t plain_bytes(std::string_view text) {
  const auto is_plain = [](char byte) { return (byte >= ' ' && byte <= '~') || byte == '\n'; };
  std::size_t plain = 0;
  for (; text.size() - plain >= together; plain += together) {
    unsigned others = 0;
    for (const char byte : text.substr(plain, together))
      others += is_plain(byte) ? 0U : 1U;
    if (others > 0) break;
  }
  return plain;
}

/// The sign for a control character, ␛ for escape, in UTF-8.
std::string sign_for(char32_t code) {
  if (code >= 0x80U) return "\uFFFD";
  const unsigned low = code == 0x7FU ? 0x21U : static_cast<unsigned>(code);
  return {'\xE2', '\x90', static_cast<char>(0x80U + low)};
}

}  // namespace

std::size_t columns(std::string_view text) {
  return static_cast<std::size_t>(
      std::ranges::count_if(text, [](char byte) { return (byte & 0xC0) != 0x80; }));
}

bool is_utf8(std::string_view text) {
  for (std::size_t place = 0; !text.empty(); ++place) {
    if (place % together == 0) text.remove_prefix(plain_bytes(text));
    if (text.empty()) return true;
    const Letter letter = first_letter(text);
    if (!letter.is_one) return false;
    text.remove_prefix(letter.bytes);
  }
  return true;
}

std::optional<std::string> unwelcome_in(std::string_view text) {
  for (std::size_t place = 1; !text.empty(); ++place) {
    if (place % together == 1) {
      const std::size_t plain = plain_bytes(text);
      place += plain;
      text.remove_prefix(plain);
      if (text.empty()) return std::nullopt;
    }
    const Letter letter = first_letter(text);
    if (!letter.is_one) {
      return fmt::format("the byte 0x{:02X} as letter {}: not UTF-8",
                         static_cast<unsigned char>(text.front()), place);
    }
    const bool ends_a_line_or_tabs =
        letter.code == '\t' || letter.code == '\n' || letter.code == '\r';
    if ((is_control(letter.code) && !ends_a_line_or_tabs) || is_no_letter(letter.code)) {
      return fmt::format("U+{:04X} as letter {}: {}", static_cast<unsigned>(letter.code), place,
                         is_control(letter.code) ? "a control character" : "not a letter");
    }
    text.remove_prefix(letter.bytes);
  }
  return std::nullopt;
}

std::string harmless(std::string_view text, LineBreaks breaks) {
  std::string safe;
  safe.reserve(text.size());
  while (!text.empty()) {
    const Letter letter = first_letter(text);
    if (!letter.is_one || is_no_letter(letter.code) || upsets_a_line(letter.code)) {
      safe += "\uFFFD";
    } else if (letter.code == '\n' && breaks == LineBreaks::kept) {
      safe += '\n';
    } else if (letter.code == '\t' || letter.code == '\n' || letter.code == '\r') {
      safe += ' ';
    } else if (is_control(letter.code)) {
      safe += sign_for(letter.code);
    } else {
      safe += text.substr(0, letter.bytes);
    }
    text.remove_prefix(letter.bytes);
  }
  return safe;
}

}  // namespace lattice
