#pragma once

#include <cstdint>
#include <functional>
#include <optional>
#include <string>
#include <string_view>
#include <variant>
#include <vector>

#include "lattice/text/numbers.hpp"
#include "lattice/text/wrapping.hpp"

namespace lattice {

/// A table of numbers with a heading for each column and a label for each row.
struct Grid {
  /// A number, a word, or nothing: that stays blank.
  using Entry = std::variant<std::monostate, double, std::string>;

  std::string title = {};                  ///< above it all, where several stand side by side
  std::string corner = {};                 ///< above the labels of the rows
  std::vector<std::string> headings = {};  ///< one a column
  std::vector<std::string> labels = {};    ///< one a row
  std::vector<std::vector<Entry>> rows = {};
  std::string thing = "numbers";  ///< what rows are, for the word on what is left out
};

/// How a grid is laid out.
struct GridStyle {
  int digits = usual_digits;       ///< significant digits of numbers
  std::int64_t most_rows = 10;     ///< more are shortened, with a word on it
  std::size_t width = page_width;  ///< columns of text; what does not fit is left out, with a word
  bool ruled = false;              ///< inside a ruled box

  /// Writes a number otherwise than with those digits; nothing where it has nothing to say.
  std::function<std::optional<std::string>(double number)> write = nullptr;

  /// Colours a number, and what is around the numbers; without them nothing is coloured.
  std::function<std::string(double number, const std::string& text)> ink = nullptr;
  std::function<std::string(const std::string& text)> faint = nullptr;
};

/// The grid as text, ending in a line break. Columns and rows in the middle make way, and a last
/// line says how many are shown.
[[nodiscard]] std::string text(const Grid& grid, const GridStyle& style);

/// Grids of one form under their titles: as many side by side as fit, in as many lines as their
/// rows do not exceed those of the style, and a word on those left out. A grid is made when it is
/// shown.
[[nodiscard]] std::string text(std::int64_t count, const std::function<Grid(std::int64_t)>& grid_at,
                               const GridStyle& style);

}  // namespace lattice
