#include "tensor/tensor_grid.hpp"

namespace lattice {
namespace {

std::vector<std::string> labels(const Shape& shape, int axis, const AxisNames& names) {
  std::vector<std::string> all;
  for (std::int64_t place = 0; place < shape[axis]; ++place)
    all.push_back(names.label(shape.role(axis), place));
  return all;
}

}  // namespace

Grid grid_of(const Tensor& tensor, const AxisNames& names) {
  const Shape& shape = tensor.shape();
  const int across = shape.rank() - 1;
  Grid grid{.headings = labels(shape, across, names), .thing = "rows"};
  if (shape.role(across) != Role::none) grid.corner = word(shape.role(across));
  const std::int64_t width = shape[across];
  const std::int64_t height = tensor.count() / width;
  for (std::int64_t row = 0; row < height; ++row) {
    std::vector<Grid::Cell> cells;
    for (std::int64_t column = 0; column < width; ++column)
      cells.emplace_back(tensor.at_offset(row * width + column));
    grid.rows.push_back(std::move(cells));
  }
  if (shape.rank() == 1) {
    grid.labels = {""};
  } else if (shape.rank() == 2) {
    for (std::int64_t row = 0; row < height; ++row)
      grid.labels.push_back(names.label_with_role(shape.role(0), row));
    grid.thing = plural(shape.role(0), "numbers");
  } else {
    for (std::int64_t row = 0; row < height; ++row) {
      Index at = shape.index(row * width);
      std::string text = to_string(at);
      grid.labels.push_back(text.substr(0, text.rfind(',')) + ",·]");
    }
  }
  return grid;
}

}  // namespace lattice
