#include "text/grid.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <numeric>
#include <utility>

#include "lattice/text/letters.hpp"

namespace lattice {
namespace {

constexpr std::string_view gap = "  ";
constexpr std::string_view between = "    ";  ///< grids side by side
constexpr std::string_view left_out = "…";

/// Which of `count` places are shown when there is room for `room`: the first ones and the last.
/// A −1 stands for those left out.
std::vector<std::int64_t> shown_places(std::int64_t count, std::int64_t room) {
  std::vector<std::int64_t> places(static_cast<std::size_t>(count));
  std::iota(places.begin(), places.end(), 0);
  if (count <= room) return places;
  room = std::max<std::int64_t>(room, 3);
  places.resize(static_cast<std::size_t>(room - 2));
  places.push_back(-1);
  places.push_back(count - 1);
  return places;
}

std::string pad_left(const std::string& text, std::size_t width) {
  return std::string(width - std::min(width, columns(text)), ' ') + text;
}

std::string pad_right(const std::string& text, std::size_t width) {
  return text + std::string(width - std::min(width, columns(text)), ' ');
}

/// A grid with its numbers written out, ready to be laid out.
class Layout {
 public:
  Layout(const Grid& grid, const GridStyle& style)
      : grid_(grid),
        style_(style),
        corner_(harmless(grid.corner)),
        rows_(shown_places(std::ssize(grid.rows), style.most_rows)) {
    for (const std::string& heading : grid.headings)
      headings_.push_back(harmless(heading));
    label_width_ = lattice::columns(corner_);
    for (const std::int64_t row : rows_) {
      label_width_ = std::max(label_width_, lattice::columns(label(row)));
    }
    choose_columns(style.ruled ? style.width - box : style.width);
  }

  /// The grid line by line, each as wide as the others.
  [[nodiscard]] std::vector<std::string> lines() const {
    std::string heading;
    for (const std::int64_t column : columns_) {
      heading += heading.empty() ? "" : gap;
      heading +=
          pad_left(column < 0 ? std::string(left_out) : headings_[static_cast<std::size_t>(column)],
                   width_of(column));
    }
    std::vector<std::string> lines;
    if (style_.ruled) lines.push_back(rule("┌", "┬", "┐"));
    lines.push_back(row_of(corner_, faint(heading)));
    if (style_.ruled) lines.push_back(rule("├", "┼", "┤"));
    for (const std::int64_t row : rows_) {
      std::string cells;
      for (const std::int64_t column : columns_) {
        cells += cells.empty() ? "" : gap;
        cells += cell(row, column);
      }
      lines.push_back(row_of(label(row), cells));
    }
    if (style_.ruled) lines.push_back(rule("└", "┴", "┘"));
    return lines;
  }

  /// How many columns of text a line takes up.
  [[nodiscard]] std::size_t width() const {
    return label_width_ + gap.size() + width_of_cells() + (style_.ruled ? box : 0);
  }

  /// What is left out of rows and columns, in words.
  [[nodiscard]] std::vector<std::string> left_out_in_words() const {
    std::vector<std::string> words;
    const auto add = [&](const std::vector<std::int64_t>& places, std::int64_t count,
                         std::string_view thing) {
      if (std::ssize(places) == count && std::ranges::find(places, -1) == places.end()) return;
      words.push_back(fmt::format("{} of {} {} shown", places.size() - 1, count, thing));
    };
    add(rows_, std::ssize(grid_.rows), grid_.thing);
    add(columns_, std::ssize(headings_), "columns");
    return words;
  }

 private:
  /// How much wider a grid is inside a box.
  static constexpr std::size_t box = 5;

  [[nodiscard]] std::string faint(const std::string& text) const {
    return style_.faint ? style_.faint(text) : text;
  }

  [[nodiscard]] std::string row_of(const std::string& label, const std::string& cells) const {
    const std::string padded = pad_right(label, label_width_);
    if (!style_.ruled) return faint(padded) + std::string(gap) + cells;
    const std::string side = faint("│");
    return fmt::format("{} {} {} {} {}", side, faint(padded), side, cells, side);
  }

  [[nodiscard]] std::size_t width_of_cells() const {
    std::size_t width = 0;
    for (const std::int64_t column : columns_)
      width += (width == 0 ? 0 : gap.size()) + width_of(column);
    return width;
  }

  /// A line of the box from side to side.
  [[nodiscard]] std::string rule(std::string_view left, std::string_view middle,
                                 std::string_view right) const {
    const auto line = [](std::size_t count) {
      std::string text;
      for (std::size_t i = 0; i < count; ++i)
        text += "─";
      return text;
    };
    return faint(fmt::format("{}{}{}{}{}", left, line(label_width_ + 2), middle,
                             line(width_of_cells() + 2), right));
  }

  void choose_columns(std::size_t width) {
    const auto count = std::ssize(headings_);
    const auto most = static_cast<std::int64_t>(width / (gap.size() + 1) + 2);
    std::int64_t room = std::min<std::int64_t>(count, most);
    for (;; --room) {
      columns_ = shown_places(count, room);
      std::size_t needed = label_width_;
      for (const std::int64_t column : columns_)
        needed += gap.size() + width_of(column);
      if (needed <= width || room <= 3) return;
    }
  }

  [[nodiscard]] std::size_t width_of(std::int64_t column) const {
    if (column < 0) return 1;
    std::size_t width = lattice::columns(headings_[static_cast<std::size_t>(column)]);
    for (const std::int64_t row : rows_)
      width = std::max(width, lattice::columns(written(row, column)));
    return width;
  }

  [[nodiscard]] std::string label(std::int64_t row) const {
    return row < 0 ? std::string(left_out) : harmless(grid_.labels[static_cast<std::size_t>(row)]);
  }

  [[nodiscard]] const Grid::Entry& at(std::int64_t row, std::int64_t column) const {
    return grid_.rows[static_cast<std::size_t>(row)][static_cast<std::size_t>(column)];
  }

  [[nodiscard]] std::string written(std::int64_t row, std::int64_t column) const {
    if (row < 0 || column < 0) return std::string(left_out);
    const Grid::Entry& cell = at(row, column);
    if (const auto* const number = std::get_if<double>(&cell)) {
      std::optional<std::string> text = style_.write ? style_.write(*number) : std::nullopt;
      return text ? std::move(*text) : format_number(*number, style_.digits);
    }
    const auto* const word = std::get_if<std::string>(&cell);
    return word == nullptr ? "" : harmless(*word);
  }

  [[nodiscard]] std::string cell(std::int64_t row, std::int64_t column) const {
    const std::string text = pad_left(written(row, column), width_of(column));
    const bool is_there = row >= 0 && column >= 0;
    const auto* const number = is_there ? std::get_if<double>(&at(row, column)) : nullptr;
    if (number == nullptr) return faint(text);
    return style_.ink ? style_.ink(*number, text) : text;
  }

  const Grid& grid_;
  const GridStyle& style_;
  std::string corner_;
  std::vector<std::string> headings_ = {};
  std::vector<std::int64_t> rows_;
  std::vector<std::int64_t> columns_;
  std::size_t label_width_ = 0;
};

}  // namespace

namespace {

/// A grid under its title, line by line, each as wide as the others.
struct Block {
  std::vector<std::string> lines;
  std::size_t width;

  Block(const Grid& grid, const Layout& layout, const GridStyle& style)
      : lines(layout.lines()), width(layout.width()) {
    if (grid.title.empty()) return;
    const std::string title = harmless(grid.title);
    const std::size_t of_grid = std::exchange(width, std::max(width, columns(title)));
    for (std::string& line : lines)
      line.append(width - of_grid, ' ');
    lines.insert(lines.begin(), style.faint ? style.faint(title) : title);
    lines.front().append(width - columns(title), ' ');
  }
};

template <class GridAt>
std::string side_by_side(std::int64_t count, const GridAt& grid_at, const GridStyle& style) {
  std::string text;
  std::vector<std::string> left_out_words;
  std::int64_t shown = 0;
  for (std::int64_t rows = 0; shown < count;) {
    std::vector<std::string> lines;
    std::size_t width = 0;
    std::int64_t height = 1;
    for (; shown < count; ++shown) {
      const Grid& grid = grid_at(shown);
      const Layout layout(grid, style);
      const Block block(grid, layout, style);
      const bool is_first = lines.empty();
      if (!is_first && width + between.size() + block.width > style.width) break;
      lines.resize(block.lines.size());
      for (std::size_t line = 0; line < lines.size(); ++line)
        lines[line] += (is_first ? "" : std::string(between)) + block.lines[line];
      width += (is_first ? 0 : between.size()) + block.width;
      height = std::max<std::int64_t>(std::ssize(grid.rows), 1);
      if (shown == 0) left_out_words = layout.left_out_in_words();
    }
    if (!text.empty() && !style.ruled) text += "\n";
    for (const std::string& line : lines)
      text += line.substr(0, line.find_last_not_of(' ') + 1) + "\n";
    rows += height;
    if (rows + height > style.most_rows) break;
  }
  if (shown < count) left_out_words.push_back(fmt::format("{} of {} tables shown", shown, count));
  if (left_out_words.empty()) return text;
  const std::string note = fmt::format("({})", fmt::join(left_out_words, ", "));
  return text + (style.faint ? style.faint(note) : note) + "\n";
}

}  // namespace

std::string text(const Grid& grid, const GridStyle& style) {
  return side_by_side(
      1, [&](std::int64_t) -> const Grid& { return grid; }, style);
}

std::string text(std::int64_t count, const std::function<Grid(std::int64_t)>& grid_at,
                 const GridStyle& style) {
  return side_by_side(count, grid_at, style);
}

}  // namespace lattice
