#pragma once

#include <cstddef>
#include <string>
#include <string_view>

namespace lattice {

/// The widest that anything printed for a terminal gets, in columns.
inline constexpr std::size_t page_width = 100;

/// Breaks a long formula that starts in column `indent` into lines of at most `width` columns: in
/// front of a `+`, a `−`, the lower part of a quotient or the next argument, inside as few
/// parentheses as it takes. The lines after the first are indented as far.
[[nodiscard]] std::string wrap_formula(std::string_view formula, std::size_t indent,
                                       std::size_t width = page_width);

/// The words of a text in lines of at most `width` columns, each ended.
[[nodiscard]] std::string paragraph(std::string_view text, std::size_t width = page_width);

}  // namespace lattice
