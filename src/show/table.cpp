#include "show/table.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <numeric>

#include "lattice/tensor/numbers.hpp"

namespace lattice {
namespace {

constexpr std::string_view gap = "  ";
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

/// A table with its numbers written out, ready to be laid out.
class Layout {
 public:
  Layout(const Table& table, const TerminalStyle& style, std::size_t width)
      : table_(table), style_(style), rows_(shown_places(std::ssize(table.rows), style.most_rows)) {
    label_width_ = lattice::columns(table.corner);
    for (const std::int64_t row : rows_) {
      label_width_ = std::max(label_width_, lattice::columns(label(row)));
    }
    choose_columns(width);
  }

  [[nodiscard]] std::string text() const {
    std::string text = in_ink(ink::faint, pad_right(table_.corner, label_width_), style_);
    for (const std::int64_t column : columns_) {
      const std::string heading =
          column < 0 ? std::string(left_out) : table_.headings[static_cast<std::size_t>(column)];
      text += gap;
      text += in_ink(ink::faint, pad_left(heading, width_of(column)), style_);
    }
    text += "\n";
    for (const std::int64_t row : rows_) {
      text += in_ink(ink::faint, pad_right(label(row), label_width_), style_);
      for (const std::int64_t column : columns_) {
        text += gap;
        text += cell(row, column);
      }
      text += "\n";
    }
    return text + note();
  }

 private:
  void choose_columns(std::size_t width) {
    const auto count = std::ssize(table_.headings);
    std::int64_t room = count;
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
    std::size_t width = lattice::columns(table_.headings[static_cast<std::size_t>(column)]);
    for (const std::int64_t row : rows_)
      width = std::max(width, lattice::columns(number(row, column)));
    return width;
  }

  [[nodiscard]] std::string label(std::int64_t row) const {
    return row < 0 ? std::string(left_out) : table_.labels[static_cast<std::size_t>(row)];
  }

  [[nodiscard]] std::optional<double> value(std::int64_t row, std::int64_t column) const {
    if (row < 0 || column < 0) return std::nullopt;
    return table_.rows[static_cast<std::size_t>(row)][static_cast<std::size_t>(column)];
  }

  [[nodiscard]] std::string number(std::int64_t row, std::int64_t column) const {
    if (row < 0 || column < 0) return std::string(left_out);
    const std::optional<double> number = value(row, column);
    return number ? format_number(*number, style_.digits) : "";
  }

  [[nodiscard]] std::string cell(std::int64_t row, std::int64_t column) const {
    const std::string text = pad_left(number(row, column), width_of(column));
    const std::optional<double> number = value(row, column);
    if (!number) return in_ink(ink::faint, text, style_);
    return table_.signs ? in_ink_of_sign(*number, text, style_) : text;
  }

  [[nodiscard]] std::string note() const {
    std::string note;
    const auto add = [&](const std::vector<std::int64_t>& places, std::int64_t count,
                         std::string_view thing) {
      if (std::ssize(places) == count && std::ranges::find(places, -1) == places.end()) return;
      note += fmt::format("{}{} of {} {} shown", note.empty() ? "" : ", ", places.size() - 1, count,
                          thing);
    };
    add(rows_, std::ssize(table_.rows), table_.thing);
    add(columns_, std::ssize(table_.headings), "columns");
    return note.empty() ? "" : in_ink(ink::faint, "(" + note + ")", style_) + "\n";
  }

  const Table& table_;
  const TerminalStyle& style_;
  std::vector<std::int64_t> rows_;
  std::vector<std::int64_t> columns_;
  std::size_t label_width_ = 0;
};

}  // namespace

std::string in_ink(std::string_view ink, const std::string& text, const TerminalStyle& style) {
  return style.colour ? fmt::format("\x1b[{}m{}\x1b[0m", ink, text) : text;
}

std::string in_ink_of_sign(double number, const std::string& text, const TerminalStyle& style) {
  if (number > 0) return in_ink(ink::positive, text, style);
  return number < 0 ? in_ink(ink::negative, text, style) : text;
}

std::string show_table(const Table& table, const TerminalStyle& style, std::size_t width) {
  return Layout(table, style, width).text();
}

}  // namespace lattice
