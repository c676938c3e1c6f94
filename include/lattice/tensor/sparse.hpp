#pragma once

#include <cstdint>
#include <span>
#include <vector>

#include "lattice/tensor/tensor.hpp"

namespace lattice {

/// A number of a matrix and its position.
struct MatrixEntry {
  std::int64_t row = 0;
  std::int64_t column = 0;
  double number = 1.0;

  friend bool operator==(const MatrixEntry&, const MatrixEntry&) = default;
};

/// Returns a matrix of which only some numbers are stored, such as the edges of a graph; all others
/// are 0. It is used like any tensor, with the same results: `matmul` with it on the left, `sum`,
/// `with_loops` and `scale_both` use only the stored numbers; other operations convert it to a
/// dense matrix first, which needs memory for all of them.
///
/// @code
/// const Tensor A = sparse_matrix({3, 3}, {{0, 1}, {1, 0}, {1, 2, 0.5}});
/// A.at({1, 2});   // 0.5
/// A.at({2, 1});   // 0
/// @endcode
/// @param entries in any order; duplicate positions are added up
/// @throws ShapeError unless `shape` is [row × column]; IndexError for a position outside it.
[[nodiscard]] Tensor sparse_matrix(const Shape& shape, const std::vector<MatrixEntry>& entries,
                                   Precision precision = Precision::double_);

/// Returns the stored numbers of a matrix, row by row and by column within a row; for a dense
/// matrix all numbers but 0. @throws ShapeError for another rank than 2.
[[nodiscard]] std::vector<MatrixEntry> entries_of(const Tensor& matrix);

/// Returns the number of stored numbers of a tensor: all of them unless it is a sparse matrix.
[[nodiscard]] std::int64_t stored_count(const Tensor& tensor);

/// Whether a matrix equals its transpose.
/// @throws ShapeError for another rank than 2.
[[nodiscard]] bool is_symmetric(const Tensor& matrix);

/// Returns the stored positions along an axis, in order: for a sparse matrix those in row `place`
/// if the axis is 1, and those in column `place` if it is 0; for any other tensor all.
[[nodiscard]] std::vector<std::int64_t> stored_along(const Tensor& tensor, int axis,
                                                     std::int64_t place);

}  // namespace lattice
