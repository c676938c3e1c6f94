#include "lattice/worksheet/curve.hpp"

#include "lattice/text/error.hpp"
#include "lattice/worksheet/reverse_sweep.hpp"

namespace lattice {

Curve curve(const std::function<Line(const Line&)>& function, double first, double last,
            std::int64_t count) {
  Worksheet sheet;
  const Line x = sheet.weight("x", evenly_spaced(first, last, count));
  const Line y = function(x);
  if (y.shape() != x.shape()) {
    throw ShapeError({.what = "a curve needs a function that handles each number by itself",
                      .expected = to_string(x.shape()),
                      .found = to_string(y.shape())});
  }
  ReverseSweep sweep(y, ones(y.shape()));
  while (sweep.next()) {
  }
  return {.x = x.value(), .value = y.value(), .slope = sweep.gradient(x)};
}

}  // namespace lattice
