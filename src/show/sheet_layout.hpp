#pragma once

#include <xlsxwriter.h>

#include <cstdint>
#include <string>

#include "lattice/data/dataset.hpp"
#include "lattice/tensor/shape.hpp"

namespace lattice {

/// The first column that holds numbers: the line's number and the labels stand before it.
inline constexpr lxw_col_t first_column = 2;

/// A cell of a sheet.
struct Seat {
  std::size_t sheet;
  lxw_row_t row;
  lxw_col_t column;
};

/// `C`, `AB`; `C5`.
[[nodiscard]] std::string column_name(lxw_col_t column);
[[nodiscard]] std::string cell_name(lxw_row_t row, lxw_col_t column);

/// How a tensor is laid out in cells: its last axis to the right, all others downward.
struct Layout {
  explicit Layout(const Shape& shape)
      : columns(shape.rank() == 0 ? 1 : shape[shape.rank() - 1]), rows(shape.count() / columns) {}
  std::int64_t columns;
  std::int64_t rows;
};

/// What stands beside a row: its place along all axes but the last, and its name where it has one.
[[nodiscard]] std::string row_label(const Shape& shape, std::int64_t row, const AxisNames& names);

}  // namespace lattice
