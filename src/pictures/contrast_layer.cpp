#include "lattice/pictures/contrast_layer.hpp"

#include "lattice/network/pass.hpp"
#include "lattice/pictures/contrast_operation.hpp"

namespace lattice {

Shape NormaliseContrast::shape(const Shape& example) const {
  contrast.check(example);
  return example;
}

std::int64_t NormaliseContrast::written(const Shape& example) const {
  const std::int64_t places = example[0] * example[1];
  const std::int64_t level = places + example.count();
  if (contrast.kind == ContrastKind::subtractive) return level;
  // Squares, their mean, with a little, its root, the larger one, what is divided; and the least.
  const std::int64_t deviation = 2 * example.count() + 4 * places + 1;
  return contrast.kind == ContrastKind::divisive ? deviation : level + deviation;
}

Line NormaliseContrast::forward(const Line& x, Pass& pass) const {
  const Contrasted<Line> made = with_contrast(x, contrast);
  name_lines(made, pass.name());
  return made.result;
}

}  // namespace lattice
