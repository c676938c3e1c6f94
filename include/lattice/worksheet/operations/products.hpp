#pragma once

#include "lattice/worksheet/worksheet.hpp"

namespace lattice {

/// The matrix product of [n × k] and [k × m]: [n × m], where the number at [i,j] is the sum over k
/// of a[i,k]·b[k,j].
/// @throws ShapeError when either has another rank than 2, or the two k differ.
[[nodiscard]] Line matmul(const Line& a, const Line& b);
[[nodiscard]] Tensor matmul(const Tensor& a, const Tensor& b);

/// x·W + b in one line: [n × k]·[k × m] + [m], with b added to every row. The same numbers as
/// `matmul(x, W) + b`, with one line less.
/// @throws ShapeError when x or W has another rank than 2, the two k differ, or b is not [m].
[[nodiscard]] Line dense(const Line& x, const Line& W, const Line& b);
[[nodiscard]] Tensor dense(const Tensor& x, const Tensor& W, const Tensor& b);

/// Rows become columns: [n × m] becomes [m × n].
/// @throws ShapeError for another rank than 2.
[[nodiscard]] Line transpose(const Line& x);
[[nodiscard]] Tensor transpose(const Tensor& x);

}  // namespace lattice
