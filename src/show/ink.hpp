#pragma once

#include <string>
#include <string_view>

#include "lattice/show/terminal.hpp"
#include "lattice/text/wrapping.hpp"
#include "text/grid.hpp"

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

/// How a grid is laid out in a style: numbers in the colours of their signs unless `signs` is
/// false.
[[nodiscard]] GridStyle grid_style(const TerminalStyle& style, bool signs = true);
[[nodiscard]] GridStyle grid_style(const TerminalStyle& style, bool signs, std::size_t width);

}  // namespace lattice
