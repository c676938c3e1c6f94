#pragma once

#include <cstddef>
#include <cstdint>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <vector>

#include "lattice/tensor/error.hpp"

namespace lattice {

/// The widest that anything printed for a terminal gets, in columns.
inline constexpr std::size_t page_width = 100;

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

/// Breaks a long formula that starts in column `indent` into lines of at most `width` columns: in
/// front of a `+`, a `−`, the lower part of a quotient or the next argument, inside as few
/// parentheses as it takes. The lines after the first are indented as far.
[[nodiscard]] std::string wrap_formula(std::string_view formula, std::size_t indent,
                                       std::size_t width = page_width);

/// The words of a text in lines of at most `width` columns, each ended.
[[nodiscard]] std::string paragraph(std::string_view text, std::size_t width = page_width);

/// The candidate that `text` was most likely meant to be; empty when none is near: when more than
/// half of its letters would have to change.
/// Source: edit distance (Levenshtein, 1966).
[[nodiscard]] std::string nearest(std::string_view text, std::span<const std::string> candidates);

/// What to say about a name that stands for nothing: which names there are, and which is near.
[[nodiscard]] Trouble not_among(std::string what, std::string_view found,
                                std::span<const std::string> known);

/// A word and the numbers after it: `steps 10 0.5`.
struct Phrase {
  std::string word = {};
  std::vector<double> numbers = {};

  /// False when something after the word is no number; there is nothing else to it then.
  bool is_readable = true;
};

[[nodiscard]] Phrase parse_phrase(std::string_view text);

}  // namespace lattice
