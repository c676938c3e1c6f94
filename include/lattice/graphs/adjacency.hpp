#pragma once

#include <string_view>

#include "lattice/worksheet/worksheet.hpp"

namespace lattice {

/// The name of the line with the share of each node in each (`normalised_adjacency`).
inline constexpr std::string_view shares_name = "shares";

/// A graph as a matrix, its adjacency: row i and column j has the weight with which node i uses
/// node j, 0 without an edge. Large ones are sparse (`sparse_matrix`).

/// A + I: an edge from each node to itself is added.
/// @throws ShapeError unless A is [n × n].
template <Operand X>
[[nodiscard]] X with_loops(const X& adjacency);

/// A matrix scaled by rows and columns: rows[i]·A[i,j]·columns[j].
/// @param rows,columns [n] and [m] for a matrix [n × m]
/// @throws ShapeError for other shapes.
template <Operand X>
[[nodiscard]] X scale_both(const X& matrix, const X& rows, const X& columns);

/// The normalised adjacency with self-loops: A + I, divided by the root of both degrees. For a
/// symmetric graph that is
///
///     shares[i,j] = (A+I)[i,j]/√(degree of i · degree of j)
///
/// where the degree of a node is the sum of its row of A + I; otherwise the second degree is the
/// sum of column j. On a worksheet the steps are lines: `looped` (which is A + I), `degrees`,
/// `scale` and `shares`; for asymmetric graphs `degrees.out` and `scale.out`, too.
///
/// @code
/// const Tensor A = sparse_matrix({3, 3}, {{0, 1}, {1, 0}});
/// normalised_adjacency(A).at({0, 1});   // 1/√(2·2) = 0.5
/// normalised_adjacency(A).at({2, 2});   // 1: node 2 has no neighbour but itself
/// @endcode
/// @throws ShapeError unless A is [n × n].
/// Source: the normalised adjacency with self-loops (Kipf and Welling, 2017).
template <Operand X>
[[nodiscard]] X normalised_adjacency(const X& adjacency);

}  // namespace lattice
