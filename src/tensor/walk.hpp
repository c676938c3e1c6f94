#pragma once

#include <array>
#include <cstddef>
#include <cstdint>

#include "lattice/tensor/shape.hpp"

namespace lattice::kernels {

/// How to walk two tensors while they are stretched to a shape: axes that behave alike are merged,
/// and a stretched axis has a step of 0.
struct Walk {
  std::array<std::int64_t, max_rank> extents{};
  std::array<std::int64_t, max_rank> step_a{};
  std::array<std::int64_t, max_rank> step_b{};
  int rank = 0;
};

[[nodiscard]] Walk walk(const Shape& shape, const Shape& a, const Shape& b);

/// Calls `row(offset, a, b)` for each innermost row of a walk, with the offsets where it starts in
/// the stretched shape and in both tensors.
template <class Row>
void each_row(const Walk& walk, Row row) {
  const int outer = walk.rank - 1;
  std::array<std::int64_t, max_rank> at{};
  std::int64_t in_a = 0;
  std::int64_t in_b = 0;
  for (std::int64_t offset = 0;;) {
    row(offset, in_a, in_b);
    offset += walk.extents[static_cast<size_t>(outer)];
    int axis = outer - 1;
    for (; axis >= 0; --axis) {
      const auto i = static_cast<size_t>(axis);
      in_a += walk.step_a[i];
      in_b += walk.step_b[i];
      if (++at[i] < walk.extents[i]) break;
      in_a -= walk.step_a[i] * walk.extents[i];
      in_b -= walk.step_b[i] * walk.extents[i];
      at[i] = 0;
    }
    if (axis < 0) return;
  }
}

}  // namespace lattice::kernels
