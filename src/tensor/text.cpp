#include "lattice/tensor/text.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <limits>
#include <numeric>
#include <optional>
#include <sstream>
#include <vector>

#include "lattice/tensor/numbers.hpp"

namespace lattice {
namespace {

std::size_t edit_distance(std::string_view a, std::string_view b) {
  std::vector<std::size_t> row(b.size() + 1);
  std::iota(row.begin(), row.end(), std::size_t{0});
  for (std::size_t i = 0; i < a.size(); ++i) {
    std::size_t diagonal = row[0];
    row[0] = i + 1;
    for (std::size_t j = 0; j < b.size(); ++j) {
      const std::size_t replaced = diagonal + (a[i] == b[j] ? 0 : 1);
      diagonal = row[j + 1];
      row[j + 1] = std::min({replaced, row[j] + 1, diagonal + 1});
    }
  }
  return row[b.size()];
}

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

/// The sign for a control character, ␛ for escape, in UTF-8.
std::string sign_for(char32_t code) {
  if (code >= 0x80U) return "\uFFFD";
  const unsigned low = code == 0x7FU ? 0x21U : static_cast<unsigned>(code);
  return {'\xE2', '\x90', static_cast<char>(0x80U + low)};
}

/// Where a formula can be broken: in front of a sign between terms, of a quotient's lower part, of
/// the next argument; only where these stand inside the fewest parentheses.
std::vector<std::size_t> places_to_break(std::string_view formula) {
  std::vector<std::size_t> places;
  int depth = 0;
  int shallowest = std::numeric_limits<int>::max();
  for (std::size_t at = 1; at < formula.size(); ++at) {
    const std::string_view rest = formula.substr(at);
    const bool can_break = rest.starts_with(" + ") || rest.starts_with(" − ") ||
                           rest.starts_with("/(") || (formula[at] == ' ' && formula[at - 1] == ',');
    if (can_break && depth <= shallowest) {
      if (depth < shallowest) places.clear();
      shallowest = depth;
      places.push_back(at);
    }
    if (formula[at] == '(') ++depth;
    if (formula[at] == ')') --depth;
  }
  return places;
}

/// Writes formulas into lines of a width.
class Wrapper {
 public:
  Wrapper(std::size_t indent, std::size_t width)
      : indent_(indent), width_(width), column_(indent) {}

  /// Writes a piece of a formula: where the line stands if it fits there, on a line of its own if
  /// it fits there, and else in smaller pieces.
  void write(std::string_view piece) {
    if (column_ + lattice::columns(piece) <= width_) return put(piece);
    const std::string_view alone = piece.starts_with(' ') ? piece.substr(1) : piece;
    const std::vector<std::size_t> breaks = places_to_break(piece);
    const bool fits_alone = indent_ + lattice::columns(alone) <= width_;
    if (fits_alone || breaks.empty()) {
      if (column_ > indent_) next_line();
      return put(alone);
    }
    std::size_t from = 0;
    for (const std::size_t to : breaks) {
      write(piece.substr(from, to - from));
      from = to;
    }
    write(piece.substr(from));
  }

  [[nodiscard]] const std::string& text() const { return text_; }

 private:
  void put(std::string_view piece) {
    text_ += piece;
    column_ += lattice::columns(piece);
  }
  void next_line() {
    text_ += "\n" + std::string(indent_, ' ');
    column_ = indent_;
  }

  std::size_t indent_;
  std::size_t width_;
  std::size_t column_;
  std::string text_;
};

}  // namespace

std::size_t columns(std::string_view text) {
  return static_cast<std::size_t>(
      std::ranges::count_if(text, [](char byte) { return (byte & 0xC0) != 0x80; }));
}

std::string paragraph(std::string_view text, std::size_t width) {
  std::istringstream words{std::string(text)};
  std::string result;
  std::string row;
  for (std::string word; words >> word;) {
    if (!row.empty() && columns(row) + 1 + columns(word) > width) {
      result += row + "\n";
      row.clear();
    }
    row += (row.empty() ? "" : " ") + word;
  }
  return result + row + "\n";
}

bool is_utf8(std::string_view text) {
  while (!text.empty()) {
    const Letter letter = first_letter(text);
    if (!letter.is_one) return false;
    text.remove_prefix(letter.bytes);
  }
  return true;
}

std::optional<std::string> unwelcome_in(std::string_view text) {
  for (std::size_t place = 1; !text.empty(); ++place) {
    const Letter letter = first_letter(text);
    if (!letter.is_one) {
      return fmt::format("the byte 0x{:02X} as letter {}: not UTF-8",
                         static_cast<unsigned char>(text.front()), place);
    }
    const bool is_blank = letter.code == '\t' || letter.code == '\n' || letter.code == '\r';
    if ((is_control(letter.code) && !is_blank) || is_no_letter(letter.code)) {
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

std::string_view trimmed(std::string_view text) {
  constexpr std::string_view blank = " \t\r\n";
  const std::size_t first = text.find_first_not_of(blank);
  if (first == std::string_view::npos) return {};
  return text.substr(first, text.find_last_not_of(blank) - first + 1);
}

std::string wrap_formula(std::string_view formula, std::size_t indent, std::size_t width) {
  Wrapper wrapper(indent, width);
  wrapper.write(formula);
  return wrapper.text();
}

std::string nearest(std::string_view text, std::span<const std::string> candidates) {
  std::string best;
  std::size_t least = std::min(text.size(), std::max<std::size_t>(1, text.size() / 2) + 1);
  for (const std::string& candidate : candidates) {
    const std::size_t distance = edit_distance(text, candidate);
    if (distance < least) {
      least = distance;
      best = candidate;
    }
  }
  return best;
}

Trouble not_among(std::string what, std::string_view found, std::span<const std::string> known) {
  const std::string near = nearest(found, known);
  return {.what = std::move(what),
          .expected = fmt::format("one of {}", fmt::join(known, ", ")),
          .found = fmt::format("'{}'", found),
          .remedy = near.empty() ? "" : fmt::format("did you mean {}?", near)};
}

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
