#pragma once

#include "lattice/network/network.hpp"

namespace lattice {

/// Returns the plan of a network for all nodes of a graph, which are always computed together:
/// multiplications and numbers on the worksheet are those of all.
/// @param adjacency [node × node]
/// @param features [node × feature]; of sparse ones only the stored entries count
[[nodiscard]] Plan plan_over(const Plan& of_one, const Tensor& adjacency, const Tensor& features);

}  // namespace lattice
