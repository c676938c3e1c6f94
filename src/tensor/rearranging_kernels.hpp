#pragma once

#include <array>
#include <cstdint>

#include "lattice/tensor/tensor.hpp"

/// The loops that take the numbers of a tensor to other places, and their gradients back.
namespace lattice::kernels {

/// A block of a tensor and where it goes in another: for each axis how many positions, and how far
/// apart neighbours are on both sides, counted in numbers.
struct Block {
  int rank = 0;
  std::array<std::int64_t, max_rank> extents{};
  std::array<std::int64_t, max_rank> from_step{};
  std::array<std::int64_t, max_rank> to_step{};
  std::int64_t from_start = 0;
  std::int64_t to_start = 0;
};

/// Copies a block of `from` to its place in `to`.
void copy(const Tensor& from, Tensor& to, const Block& block);

/// The way back: adds what stands at the block's place in `result` to where it came from in `from`.
void add_back(const Tensor& result, Tensor& from, const Block& block);

/// From each row of `x` the number in the column that `columns` names.
[[nodiscard]] Tensor at_columns(const Tensor& x, const Tensor& columns, const Shape& shape);

/// Writes each number of `x` into the column that `columns` names, of its row of `to`.
void put_picked(const Tensor& x, const Tensor& columns, Tensor& to);

/// The positions along axis 0 that `rows` names.
[[nodiscard]] Tensor gather_rows(const Tensor& x, const Tensor& rows, const Shape& shape);

/// Adds each row of `x` to the row of `to` that `rows` names.
void add_to_gathered(const Tensor& x, const Tensor& rows, Tensor& to);

}  // namespace lattice::kernels
