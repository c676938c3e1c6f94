#pragma once

#include <cstddef>
#include <cstdint>
#include <optional>
#include <string>
#include <string_view>

namespace lattice {

/// How many columns a UTF-8 text takes up; every character of ours takes one.
[[nodiscard]] std::size_t columns(std::string_view text);

/// The text without blanks and line breaks around it.
[[nodiscard]] std::string_view trimmed(std::string_view text);

/// The first thing in a text that no name and no word from outside may hold, in words: a byte that
/// is not UTF-8 (RFC 3629), a control character other than tab and line break, a letter that no
/// text has (U+FFFE, U+FFFF). Nothing when the text is a plain one.
[[nodiscard]] std::optional<std::string> unwelcome_in(std::string_view text);

/// What becomes of line breaks in a text that is shown.
enum class LineBreaks : std::uint8_t { blanks, kept };

/// A text as it can be shown to people: what would steer a terminal or end a line of a chart's
/// script stands there as a sign, ␛ for escape, � for what has none; a tab, and a line break unless
/// it is kept, as a blank.
[[nodiscard]] std::string harmless(std::string_view text, LineBreaks breaks = LineBreaks::blanks);

/// True when every byte belongs to a letter of UTF-8 (RFC 3629).
[[nodiscard]] bool is_utf8(std::string_view text);

}  // namespace lattice
