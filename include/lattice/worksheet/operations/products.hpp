#pragma once

#include <cstdint>

#include "lattice/worksheet/operations/form.hpp"
#include "lattice/worksheet/worksheet.hpp"

namespace lattice {

/// Selects the factors of a product to transpose.
struct Transpose {
  bool first = false;
  bool second = false;
};

/// The matrix product of [n × k] and [k × m]: [n × m], where the number at [i,j] is the sum over k
/// of a[i,k]·b[k,j]. Of tensors with more axes the last two are the matrices; the others are
/// matched and stretched as in a sum, and there is a product for each place along them.
///
/// Where the first is a sparse matrix, only what it stores is looked at, here, on the way back to
/// the second, and in what is said of a number.
///
/// @code
/// matmul(x, W);                     // x·W
/// matmul(x, W, {.second = true});   // x·Wᵀ
/// @endcode
/// @throws ShapeError when either has fewer than 2 axes, the two k differ, or the others do not
/// fit.
template <Operand X>
[[nodiscard]] X matmul(const X& a, const X& b, Transpose transpose = {});
template <class A, class B>
requires LineAndTensor<A, B>
[[nodiscard]] Line matmul(const A& a, const B& b, Transpose transpose = {}) {
  const auto [first, second] = detail::as_lines(a, b);
  return matmul(first, second, transpose);
}

/// x·W + b in one line: [n × k]·[k × m] + [m], with b added to every row. The same numbers as
/// `matmul(x, W) + b`, with one line less.
/// @throws ShapeError when x or W has another rank than 2, the two k differ, or b is not [m].
template <Operand X>
[[nodiscard]] X dense(const X& x, const X& W, const X& b, Form form = Form::one_line);

/// Rows become columns: [n × m] becomes [m × n].
/// @throws ShapeError for another rank than 2.
template <Operand X>
[[nodiscard]] X transpose(const X& x);

}  // namespace lattice
