#pragma once

#include <string_view>

#include "lattice/worksheet/worksheet.hpp"

namespace lattice {

/// The line of what each node of a graph takes from each (`shares_of`).
inline constexpr std::string_view shares_name = "shares";

/// A graph as a matrix, its adjacency: in row i and column j stands how strongly node i listens to
/// node j, 0 where they are not joined. Large ones are sparse (`sparse_matrix`).

/// A + I: each node is joined with itself, too. 1 more on the diagonal of a square.
/// @throws ShapeError unless A is [n × n].
template <Operand X>
[[nodiscard]] X with_loops(const X& adjacency);

/// Each number of a matrix times that of its row and that of its column: rows[i]·A[i,j]·columns[j].
/// @param rows,columns [n] and [m] for a matrix [n × m]
/// @throws ShapeError for other shapes.
template <Operand X>
[[nodiscard]] X scale_both(const X& matrix, const X& rows, const X& columns);

/// What each node takes from each node: A + I, scaled by the root of both degrees. Where the graph
/// is the same both ways that is
///
///     shares[i,j] = (A+I)[i,j]/√(degree of i · degree of j)
///
/// with the degree of a node the sum of its row of A + I; else the second degree is the sum of the
/// column of j. On a worksheet the steps are lines: `looped` (which is A + I), `degrees`, `scale`
/// and `shares`; where rows and columns differ `degrees.out` and `scale.out`, too.
///
/// @code
/// const Tensor A = sparse_matrix({3, 3}, {{0, 1}, {1, 0}});
/// shares_of(A).at({0, 1});   // 1/√(2·2) = 0.5
/// shares_of(A).at({2, 2});   // 1: node 2 has nobody but itself
/// @endcode
/// @throws ShapeError unless A is [n × n].
/// Source: the normalised adjacency with self-loops (Kipf and Welling, 2017).
template <Operand X>
[[nodiscard]] X shares_of(const X& adjacency);

}  // namespace lattice
