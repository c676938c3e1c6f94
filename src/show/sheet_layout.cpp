#include "show/sheet_layout.hpp"

#include <array>

namespace lattice {

std::string column_name(lxw_col_t column) {
  std::array<char, LXW_MAX_COL_NAME_LENGTH> name{};
  xlsx().lxw_col_to_name(name.data(), column, 0);
  return name.data();
}

std::string cell_name(lxw_row_t row, lxw_col_t column) {
  std::array<char, LXW_MAX_CELL_NAME_LENGTH> name{};
  xlsx().lxw_rowcol_to_cell(name.data(), row, column);
  return name.data();
}

CellBlock::CellBlock(const Shape& shape)
    : tables_(shape),
      head_(shape.rank() == 0       ? 0U
            : tables_.tables() == 1 ? 1U
                                    : 2U) {}

std::int64_t CellBlock::columns() const {
  return tables_.tables() * (tables_.columns() + 1) - 1;
}

CellBlock::Place CellBlock::place(std::int64_t offset) const {
  const TensorTables::Position position = tables_.position(offset);
  return {static_cast<lxw_row_t>(position.row),
          static_cast<lxw_col_t>(position.table * (tables_.columns() + 1) + position.column)};
}

}  // namespace lattice
