#pragma once

#include <cstddef>
#include <string>
#include <string_view>

namespace lattice {

/// The width of text for a terminal, in columns.
inline constexpr std::size_t page_width = 100;

/// Breaks a long formula that starts in column `indent` into lines of at most `width` columns:
/// before a `+`, a `−`, a denominator or the next argument, inside as few parentheses as possible.
/// The lines after the first have the same indent.
[[nodiscard]] std::string wrap_formula(std::string_view formula, std::size_t indent,
                                       std::size_t width = page_width);

/// Breaks a text into lines of at most `width` columns, each with a line break at its end.
[[nodiscard]] std::string paragraph(std::string_view text, std::size_t width = page_width);

}  // namespace lattice
