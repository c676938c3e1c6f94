#include "show/sheet_layout.hpp"

#include <fmt/format.h>

namespace lattice {

std::string column_name(lxw_col_t column) {
  std::string name;
  for (int at = column + 1; at > 0; at = (at - 1) / 26)
    name.insert(name.begin(), static_cast<char>('A' + (at - 1) % 26));
  return name;
}

std::string cell_name(lxw_row_t row, lxw_col_t column) {
  return fmt::format("{}{}", column_name(column), row + 1);
}

std::string row_label(const Shape& shape, std::int64_t row, const AxisNames& names) {
  if (shape.rank() < 2) return "";
  if (shape.rank() == 2) return names.label_with_role(shape.role(0), row);
  const Index at = shape.index(row * shape[shape.rank() - 1]);
  std::string text;
  for (int axis = 0; axis + 1 < shape.rank(); ++axis)
    text += fmt::format("{},", at[axis]);
  return fmt::format("[{}·]", text);
}

}  // namespace lattice
