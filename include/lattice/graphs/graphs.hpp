#pragma once

/// Everything for graphs. Including this header makes them known (`use_graphs`).
#include "lattice/graphs/adjacency.hpp"
#include "lattice/graphs/edge_table.hpp"
#include "lattice/graphs/graph.hpp"
#include "lattice/graphs/neighbours.hpp"
#include "lattice/graphs/plan.hpp"
#include "lattice/graphs/subject.hpp"

namespace lattice::detail {

inline const bool are_graphs_in_use = use_graphs();

}  // namespace lattice::detail
