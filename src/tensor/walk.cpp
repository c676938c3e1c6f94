#include "tensor/walk.hpp"

#include <algorithm>

namespace lattice::kernels {

Walk walk(const Shape& shape, const Shape& a, const Shape& b) {
  Walk steps;
  std::int64_t left_a = a.count();
  std::int64_t left_b = b.count();
  Walk backward;
  for (int axis = shape.rank() - 1, back = 0; axis >= 0; --axis, ++back) {
    const std::int64_t extent = shape[axis];
    if (extent == 1) continue;
    const int in_a = a.rank() - 1 - back;
    const int in_b = b.rank() - 1 - back;
    const bool walks_a = in_a >= 0 && a[in_a] != 1;
    const bool walks_b = in_b >= 0 && b[in_b] != 1;
    if (walks_a) left_a /= extent;
    if (walks_b) left_b /= extent;
    const auto last = static_cast<size_t>(backward.rank);
    if (last > 0 && (backward.step_a[last - 1] != 0) == walks_a &&
        (backward.step_b[last - 1] != 0) == walks_b) {
      backward.extents[last - 1] *= extent;
      continue;
    }
    backward.extents[last] = extent;
    backward.step_a[last] = walks_a ? a.count() / left_a / extent : 0;
    backward.step_b[last] = walks_b ? b.count() / left_b / extent : 0;
    ++backward.rank;
  }
  steps.rank = std::max(backward.rank, 1);
  steps.extents[0] = 1;
  for (int axis = 0; axis < backward.rank; ++axis) {
    const auto from = static_cast<size_t>(axis);
    const auto to = static_cast<size_t>(backward.rank - 1 - axis);
    steps.extents[to] = backward.extents[from];
    steps.step_a[to] = backward.step_a[from];
    steps.step_b[to] = backward.step_b[from];
  }
  return steps;
}

}  // namespace lattice::kernels
