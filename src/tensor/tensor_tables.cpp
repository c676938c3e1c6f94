#include "tensor/tensor_tables.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <numeric>

namespace lattice {

TensorTables::TensorTables(const Shape& shape) : shape_(shape) {
  const auto axis_of = [&](Role role) {
    for (int axis = 0; axis < shape.rank(); ++axis) {
      if (shape.role(axis) == role) return axis;
    }
    return -1;
  };
  const int row = axis_of(Role::row);
  const int column = axis_of(Role::column);
  const bool is_picture = row >= 0 && column >= 0;
  for (int axis = 0; axis < shape.rank(); ++axis) {
    const bool goes_across = is_picture ? axis == column : axis + 1 == shape.rank();
    const bool goes_down = !is_picture || axis == row;
    (goes_across ? across_ : goes_down ? down_ : beside_).push_back(axis);
  }
}

std::int64_t TensorTables::places_along(const std::vector<int>& axes) const {
  std::int64_t places = 1;
  for (const int axis : axes)
    places *= shape_[axis];
  return places;
}

std::int64_t TensorTables::place_along(const std::vector<int>& axes, const Index& at) const {
  std::int64_t place = 0;
  for (const int axis : axes)
    place = place * shape_[axis] + at[axis];
  return place;
}

void TensorTables::move_along(const std::vector<int>& axes, std::int64_t place, Index& at) const {
  for (auto axis = axes.rbegin(); axis != axes.rend(); ++axis) {
    at[*axis] = place % shape_[*axis];
    place /= shape_[*axis];
  }
}

TensorTables::Position TensorTables::position(std::int64_t offset) const {
  const Index at = shape_.index(offset);
  return {place_along(beside_, at), place_along(down_, at), place_along(across_, at)};
}

std::int64_t TensorTables::offset(const Position& position) const {
  Index at = start();
  move_along(beside_, position.table, at);
  move_along(down_, position.row, at);
  move_along(across_, position.column, at);
  return shape_.offset(at);
}

std::string TensorTables::table_label(std::int64_t table, const AxisNames& names) const {
  Index at = start();
  move_along(beside_, table, at);
  std::string label;
  for (const int axis : beside_) {
    label += label.empty() ? "" : ", ";
    label += names.label_with_role(shape_, axis, at[axis]);
  }
  return label;
}

std::string TensorTables::row_label(std::int64_t row, const AxisNames& names) const {
  if (down_.empty()) return "";
  if (down_.size() == 1) return names.label_with_role(shape_, down_[0], row);
  Index at = start();
  move_along(down_, row, at);
  std::string label = "[";
  for (const int axis : down_)
    label += fmt::format("{},", at[axis]);
  return label + "·]";
}

std::string TensorTables::column_label(std::int64_t column, const AxisNames& names) const {
  return across_.empty() ? "" : names.label(shape_, across_[0], column);
}

std::string_view TensorTables::corner() const {
  return across_.empty() ? "" : word(shape_.role(across_[0]));
}

namespace {

/// The tables, rows and columns that are shown.
struct Chosen {
  std::vector<std::int64_t> tables;
  std::vector<std::int64_t> rows;
  std::vector<std::int64_t> columns;
};

std::vector<std::int64_t> all_of(std::int64_t count) {
  std::vector<std::int64_t> all(static_cast<std::size_t>(count));
  std::iota(all.begin(), all.end(), std::int64_t{0});
  return all;
}

Chosen chosen_in(const TensorTables& layout, const std::set<std::int64_t>& within) {
  if (within.empty())
    return {all_of(layout.tables()), all_of(layout.rows()), all_of(layout.columns())};
  std::set<std::int64_t> tables;
  std::set<std::int64_t> rows;
  std::set<std::int64_t> columns;
  for (const std::int64_t offset : within) {
    const TensorTables::Position position = layout.position(offset);
    tables.insert(position.table);
    rows.insert(position.row);
    columns.insert(position.column);
  }
  return {
      {tables.begin(), tables.end()}, {rows.begin(), rows.end()}, {columns.begin(), columns.end()}};
}

/// A number, or the word in its place; of a sparse matrix a mark where none is kept.
Grid::Entry cell_at(const Tensor& tensor, std::int64_t offset, const TensorView& view) {
  if (const auto word = view.words.find(offset); word != view.words.end()) return word->second;
  const double number = tensor.at_offset(offset);
  if (number != 0.0 || !tensor.is_sparse()) return number;
  return std::string("·");
}

}  // namespace

std::string text(const Tensor& tensor, const GridStyle& style, const AxisNames& names,
                 const TensorView& view) {
  const TensorTables layout(tensor.shape());
  const Chosen chosen = chosen_in(layout, view.within);
  Grid form{.corner = std::string(layout.corner()), .thing = "rows"};
  for (const std::int64_t column : chosen.columns)
    form.headings.push_back(layout.column_label(column, names));
  for (const std::int64_t row : chosen.rows)
    form.labels.push_back(layout.row_label(row, names));
  if (layout.down().size() == 1)
    form.thing = plural(tensor.shape().role(layout.down()[0]), "numbers");
  const auto grid_at = [&](std::int64_t at) {
    const std::int64_t table = chosen.tables[static_cast<std::size_t>(at)];
    Grid grid = form;
    grid.title = layout.table_label(table, names);
    // What lies far from the ends is left out, however large the tensor is.
    const auto may_be_shown = [](std::size_t place, std::size_t count, std::size_t most) {
      return place < most || place + 1 == count;
    };
    const auto most_rows = static_cast<std::size_t>(std::max<std::int64_t>(style.most_rows, 3));
    for (std::size_t row = 0; row < chosen.rows.size(); ++row) {
      std::vector<Grid::Entry>& cells = grid.rows.emplace_back();
      if (!may_be_shown(row, chosen.rows.size(), most_rows)) continue;
      for (std::size_t column = 0; column < chosen.columns.size(); ++column) {
        if (may_be_shown(column, chosen.columns.size(), style.width)) {
          const std::int64_t offset =
              layout.offset({table, chosen.rows[row], chosen.columns[column]});
          cells.push_back(cell_at(tensor, offset, view));
        } else {
          cells.emplace_back();
        }
      }
    }
    return grid;
  };
  return text(std::ssize(chosen.tables), grid_at, style);
}

}  // namespace lattice
