#include "lattice/text/wrapping.hpp"

#include <limits>
#include <sstream>
#include <vector>

#include "lattice/text/letters.hpp"

namespace lattice {
namespace {

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

std::string wrap_formula(std::string_view formula, std::size_t indent, std::size_t width) {
  Wrapper wrapper(indent, width);
  wrapper.write(formula);
  return wrapper.text();
}

}  // namespace lattice
