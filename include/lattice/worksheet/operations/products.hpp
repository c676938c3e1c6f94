#pragma once

#include <cstdint>

#include "lattice/worksheet/operations/form.hpp"
#include "lattice/worksheet/worksheet.hpp"

namespace lattice {

/// Which factors of a product are taken with rows and columns exchanged.
struct Turn {
  bool first = false;
  bool second = false;
};

/// The matrix product of [n × k] and [k × m]: [n × m], where the number at [i,j] is the sum over k
/// of a[i,k]·b[k,j]. Of tensors with more axes the last two are the matrices; the others are
/// matched and stretched as in a sum, and there is a product for each place along them.
///
/// @code
/// matmul(x, W);                     // x·W
/// matmul(x, W, {.second = true});   // x·Wᵀ
/// @endcode
/// @throws ShapeError when either has fewer than 2 axes, the two k differ, or the others do not
/// fit.
template <Operand X>
[[nodiscard]] X matmul(const X& a, const X& b, Turn turn = {});

/// x·W + b in one line: [n × k]·[k × m] + [m], with b added to every row. The same numbers as
/// `matmul(x, W) + b`, with one line less.
/// @throws ShapeError when x or W has another rank than 2, the two k differ, or b is not [m].
template <Operand X>
[[nodiscard]] X dense(const X& x, const X& W, const X& b, Form form = Form::one_line);

/// A sparse matrix times [k × m]: [rows × m]. The sparse matrix is a list of its entries, one a
/// row: row, column, number. Places that are listed twice add up; places that are not listed are 0.
/// It is for what is given, such as which nodes of a graph are joined: no gradient is passed on to
/// it.
///
/// @code
/// const Line edges = sheet.given("edges", tensor({{0, 1, 1.0}, {1, 0, 0.5}}));
/// sparse_matmul(edges, x, 2);   // [x[1], 0.5·x[0]]
/// @endcode
/// @throws ShapeError unless entries are [entry × 3] and x is a matrix; IndexError for an entry
///         outside the matrix, or with a broken row or column number.
template <Operand X>
[[nodiscard]] X sparse_matmul(const X& entries, const X& x, std::int64_t rows);

/// Rows become columns: [n × m] becomes [m × n].
/// @throws ShapeError for another rank than 2.
template <Operand X>
[[nodiscard]] X transpose(const X& x);

}  // namespace lattice
