#pragma once

#include <cstdint>
#include <span>
#include <string>
#include <vector>

#include "lattice/data/table.hpp"
#include "lattice/graphs/graph.hpp"

namespace lattice {

/// The edges in a table of two or three columns: two nodes, and optionally a weight. A first row
/// without a node name is read as the header.
/// @param names of the nodes; if empty, the table has their numbers, from 0
/// @param nodes the number of nodes
/// @throws FileError for another number of columns, for an unknown node, with the row and the
///         nearest name, or for a weight that is not above 0.
[[nodiscard]] std::vector<Edge> edges_from(const Table& table, std::span<const std::string> names,
                                           std::int64_t nodes);

}  // namespace lattice
