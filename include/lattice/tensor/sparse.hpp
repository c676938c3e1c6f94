#pragma once

#include <cstdint>
#include <span>
#include <vector>

#include "lattice/tensor/tensor.hpp"

namespace lattice {

/// A number of a matrix and its place.
struct MatrixEntry {
  std::int64_t row = 0;
  std::int64_t column = 0;
  double number = 1.0;

  friend bool operator==(const MatrixEntry&, const MatrixEntry&) = default;
};

/// A matrix of which only some numbers are stored, such as which nodes of a graph are joined; all
/// others are 0. It is a tensor like any other, and what is calculated with it is the same:
/// `matmul` with it on the left, `sum`, `with_loops` and `scale_both` look at what is stored alone,
/// and whatever else is done with it has it written out first, which a large one is too large for.
///
/// @code
/// const Tensor A = sparse_matrix({3, 3}, {{0, 1}, {1, 0}, {1, 2, 0.5}});
/// A.at({1, 2});   // 0.5
/// A.at({2, 1});   // 0
/// @endcode
/// @param entries in any order; places that are listed twice add up
/// @throws ShapeError unless `shape` is [row × column]; IndexError for a place outside of it.
[[nodiscard]] Tensor sparse_matrix(const Shape& shape, const std::vector<MatrixEntry>& entries,
                                   Precision precision = Precision::double_);

/// What is stored of a matrix, row by row and by column within a row; of one that is not sparse,
/// all numbers but 0. @throws ShapeError for another rank than 2.
[[nodiscard]] std::vector<MatrixEntry> entries_of(const Tensor& matrix);

/// How many numbers of a tensor are stored: all of them, unless it is a sparse matrix.
[[nodiscard]] std::int64_t stored_count(const Tensor& tensor);

/// True when a matrix is the same with rows and columns exchanged.
/// @throws ShapeError for another rank than 2.
[[nodiscard]] bool is_symmetric(const Tensor& matrix);

/// The places along an axis that are stored, in order: of a sparse matrix those in row `place`
/// where the axis is 1, and those in column `place` where it is 0; of any other tensor all.
[[nodiscard]] std::vector<std::int64_t> stored_along(const Tensor& tensor, int axis,
                                                     std::int64_t place);

}  // namespace lattice
