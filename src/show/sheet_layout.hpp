#pragma once

#include <cstdint>
#include <string>

#include "lattice/tensor/shape.hpp"
#include "show/spreadsheet_library.hpp"
#include "tensor/tensor_tables.hpp"

namespace lattice {

/// The first column that holds numbers: the line's number and the labels stand before it.
inline constexpr lxw_col_t first_column = 2;

/// A cell of a sheet.
struct SheetCell {
  std::size_t sheet;
  lxw_row_t row;
  lxw_col_t column;
};

/// `C`, `AB`; `C5`.
[[nodiscard]] std::string column_name(lxw_col_t column);
[[nodiscard]] std::string cell_name(lxw_row_t row, lxw_col_t column);

/// The cells that a tensor takes up: its tables side by side, with a column between them.
class CellBlock {
 public:
  explicit CellBlock(const Shape& shape);

  [[nodiscard]] const TensorTables& tables() const { return tables_; }
  [[nodiscard]] std::int64_t columns() const;

  /// The lines above the numbers: titles of the tables, headings of the columns.
  [[nodiscard]] lxw_row_t head() const { return head_; }

  /// A cell, counted from that of the first number.
  struct Place {
    lxw_row_t row;
    lxw_col_t column;
  };

  /// The cell of a number.
  [[nodiscard]] Place place(std::int64_t offset) const;

 private:
  TensorTables tables_;
  lxw_row_t head_;
};

}  // namespace lattice
