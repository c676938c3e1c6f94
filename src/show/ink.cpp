#include "show/ink.hpp"

#include <fmt/format.h>

namespace lattice {

std::string in_ink(std::string_view ink, const std::string& text, const TerminalStyle& style) {
  return style.colour ? fmt::format("\x1b[{}m{}\x1b[0m", ink, text) : text;
}

std::string in_ink_of_sign(double number, const std::string& text, const TerminalStyle& style) {
  if (number > 0) return in_ink(ink::positive, text, style);
  return number < 0 ? in_ink(ink::negative, text, style) : text;
}

GridStyle grid_style(const TerminalStyle& style, bool signs) {
  return grid_style(style, signs, style.width);
}

GridStyle grid_style(const TerminalStyle& style, bool signs, std::size_t width) {
  GridStyle grid{.digits = style.digits, .most_rows = style.most_rows, .width = width};
  if (!style.colour) return grid;
  grid.faint = [style](const std::string& text) { return in_ink(ink::faint, text, style); };
  if (signs) {
    grid.ink = [style](double number, const std::string& text) {
      return in_ink_of_sign(number, text, style);
    };
  }
  return grid;
}

}  // namespace lattice
