#pragma once

#include <optional>
#include <string>
#include <vector>

#include "lattice/show/terminal.hpp"
#include "lattice/tensor/text.hpp"

namespace lattice {

/// The colours of the terminal, as SGR parameters of the 256-colour palette; each is readable on
/// light and on dark ground.
namespace ink {
inline constexpr std::string_view positive = "38;5;30";   // teal
inline constexpr std::string_view negative = "38;5;133";  // plum
inline constexpr std::string_view noticed = "38;5;130";   // amber
inline constexpr std::string_view faint = "38;5;243";     // pencil
}  // namespace ink

/// The text in a colour, or as it is when the style has none.
[[nodiscard]] std::string in_ink(std::string_view ink, const std::string& text,
                                 const TerminalStyle& style);

/// A number in the colour of its sign.
[[nodiscard]] std::string in_ink_of_sign(double number, const std::string& text,
                                         const TerminalStyle& style);

/// A table of numbers with a heading for each column and a label for each row.
struct Table {
  std::string corner = {};                                    ///< above the labels of the rows
  std::vector<std::string> headings = {};                     ///< one a column
  std::vector<std::string> labels = {};                       ///< one a row
  std::vector<std::vector<std::optional<double>>> rows = {};  ///< an empty cell stays blank
  std::string thing = "numbers";  ///< what rows are, for the word on what is left out
  bool signs = true;              ///< numbers in the colours of their signs
};

/// The table in at most `width` columns and `style.most_rows` rows, ending in a line break. Columns
/// and rows in the middle make way, and a last line says how many are shown.
[[nodiscard]] std::string show_table(const Table& table, const TerminalStyle& style,
                                     std::size_t width = page_width);

}  // namespace lattice
