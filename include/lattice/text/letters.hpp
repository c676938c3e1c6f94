#pragma once

#include <cstddef>
#include <cstdint>
#include <optional>
#include <string>
#include <string_view>

namespace lattice {

/// The width of a UTF-8 text in columns, one for each character.
[[nodiscard]] std::size_t columns(std::string_view text);

/// The text without blanks and line breaks around it.
[[nodiscard]] constexpr std::string_view trimmed(std::string_view text) {
  const auto is_blank = [](char byte) {
    return byte == ' ' || byte == '\t' || byte == '\r' || byte == '\n';
  };
  while (!text.empty() && is_blank(text.front()))
    text.remove_prefix(1);
  while (!text.empty() && is_blank(text.back()))
    text.remove_suffix(1);
  return text;
}

/// Describes the first character that a name from outside must not contain: a byte that is not
/// UTF-8 (RFC 3629), a control character other than tab and line break, or a noncharacter (U+FFFE,
/// U+FFFF). Nothing for plain text.
[[nodiscard]] std::optional<std::string> unwelcome_in(std::string_view text);

/// What is done with line breaks in displayed text.
enum class LineBreaks : std::uint8_t { blanks, kept };

/// Returns a text that is safe to display: control characters, which could control a terminal or
/// end a line of a chart's script, become signs, ␛ for escape and � for those without one; tabs
/// become blanks, and so do line breaks unless they are kept.
[[nodiscard]] std::string harmless(std::string_view text, LineBreaks breaks = LineBreaks::blanks);

/// Whether a text is valid UTF-8 (RFC 3629).
[[nodiscard]] bool is_utf8(std::string_view text);

}  // namespace lattice
