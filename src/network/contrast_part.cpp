#include "lattice/network/contrast_part.hpp"

#include "lattice/network/pass.hpp"
#include "lattice/worksheet/operations/contrast.hpp"

namespace lattice {

Shape NormaliseContrast::shape(const Shape& example) const {
  contrast.check(example);
  return example;
}

Line NormaliseContrast::forward(const Line& x, Pass& pass) const {
  const Contrasted<Line> made = with_contrast(x, contrast);
  const auto called = [&](const char* name, const std::optional<Line>& line) {
    if (line) named(pass.name() + "." + name, *line);
  };
  called("level", made.level);
  called("spread", made.spread);
  called("least", made.least);
  return made.result;
}

}  // namespace lattice
