#pragma once

#include <cstdint>
#include <span>
#include <string>
#include <vector>

#include "lattice/data/table.hpp"
#include "lattice/graphs/graph.hpp"

namespace lattice {

/// The edges in a table of two columns, or of three: two nodes, and how strongly they are joined. A
/// first row that names no node at either end is taken for the names of the columns.
/// @param names of the nodes; where there are none, the table has their numbers, from 0
/// @param nodes how many there are
/// @throws FileError for another number of columns, for a node that is not there, naming the row
///         and the nearest name, or for a weight that is not above 0.
[[nodiscard]] std::vector<Edge> edges_from(const Table& table, std::span<const std::string> names,
                                           std::int64_t nodes);

}  // namespace lattice
