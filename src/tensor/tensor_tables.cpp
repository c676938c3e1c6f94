#include "tensor/tensor_tables.hpp"

#include <fmt/format.h>

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

/// A number; of a sparse matrix a mark where none is kept.
Grid::Entry cell_at(const Tensor& tensor, std::int64_t offset) {
  const double number = tensor.at_offset(offset);
  if (number != 0.0 || !tensor.is_sparse()) return number;
  return std::string("·");
}

}  // namespace

std::string text(const Tensor& tensor, const GridStyle& style, const AxisNames& names) {
  const TensorTables layout(tensor.shape());
  Grid form{.corner = std::string(layout.corner()), .thing = "rows"};
  for (std::int64_t column = 0; column < layout.columns(); ++column)
    form.headings.push_back(layout.column_label(column, names));
  for (std::int64_t row = 0; row < layout.rows(); ++row)
    form.labels.push_back(layout.row_label(row, names));
  if (layout.down().size() == 1)
    form.thing = plural(tensor.shape().role(layout.down()[0]), "numbers");
  const auto grid_at = [&](std::int64_t table) {
    Grid grid = form;
    grid.title = layout.table_label(table, names);
    // What lies far from the ends is left out, however large the tensor is.
    const auto may_be_shown = [](std::int64_t place, std::int64_t count, std::int64_t most) {
      return place < most || place == count - 1;
    };
    const std::int64_t rows = layout.rows();
    const std::int64_t columns = layout.columns();
    const auto most_columns = static_cast<std::int64_t>(style.width);
    for (std::int64_t row = 0; row < rows; ++row) {
      std::vector<Grid::Entry>& cells = grid.rows.emplace_back();
      if (!may_be_shown(row, rows, std::max<std::int64_t>(style.most_rows, 3))) continue;
      for (std::int64_t column = 0; column < columns; ++column) {
        if (may_be_shown(column, columns, most_columns)) {
          cells.push_back(cell_at(tensor, layout.offset({table, row, column})));
        } else {
          cells.emplace_back();
        }
      }
    }
    return grid;
  };
  return text(layout.tables(), grid_at, style);
}

}  // namespace lattice
