#include "lattice/worksheet/laid_out.hpp"

#include <array>
#include <optional>
#include <span>
#include <vector>

#include "lattice/tensor/raster.hpp"

namespace lattice {
namespace {

/// The shape of the pictures that a line has flattened; nothing for any other line.
std::optional<Shape> flattened_by(const Line& line) {
  if (line.kind() != Line::Kind::calculated || !line.nature().rearranges) return std::nullopt;
  const Shape& before = line.inputs().front().shape();
  const bool are_pictures = before.rank() == 4 && line.shape().rank() == 2 &&
                            before[0] == line.shape()[0] && is_raster(before.without_first_axis());
  return are_pictures ? std::optional(before.without_first_axis()) : std::nullopt;
}

/// The axes of a picture, without the channel if there is one.
std::vector<int> axes_of(const Shape& picture) {
  return picture[2] == 1 ? std::vector<int>{0, 1} : std::vector<int>{0, 1, 2};
}

/// The axes of a picture in place of one of the two axes of a line.
Shape around(const Shape& picture, const Shape& line, bool picture_is_first) {
  std::vector<std::int64_t> extents;
  std::vector<Role> roles;
  const auto add = [&](std::int64_t extent, Role role) {
    extents.push_back(extent);
    roles.push_back(role);
  };
  if (!picture_is_first) add(line[0], line.role(0));
  constexpr std::array<Role, 3> of_picture = {Role::row, Role::column, Role::channel};
  for (const int axis : axes_of(picture))
    add(picture[axis], of_picture.at(static_cast<std::size_t>(axis)));
  if (picture_is_first) add(line[1], line.role(1));
  Shape shape{std::span<const std::int64_t>(extents)};
  for (std::size_t axis = 0; axis < roles.size(); ++axis)
    shape.set_role(static_cast<int>(axis), roles[axis]);
  return shape;
}

}  // namespace

Shape laid_out(const Line& line) {
  const Shape& shape = line.shape();
  if (shape.rank() != 2) return shape;
  if (const std::optional<Shape> picture = flattened_by(line))
    return around(*picture, shape, false);
  if (!is_weight(line.kind())) return shape;
  for (const Line& user : line.uses()) {
    const std::vector<Line> inputs = user.inputs();
    if (!user.nature().multiplies_rows || inputs[1] != line) continue;
    const std::optional<Shape> picture = flattened_by(inputs[0]);
    return picture && picture->count() == shape[0] ? around(*picture, shape, true) : shape;
  }
  return shape;
}

Index as_on_line(const Line& line, const Index& at) {
  const Shape lying = laid_out(line);
  if (at.rank() == line.shape().rank() || at.rank() != lying.rank()) return at;
  return line.shape().index(lying.offset(at));
}

}  // namespace lattice
