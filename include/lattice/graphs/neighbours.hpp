#pragma once

#include <cstdint>
#include <string>
#include <string_view>
#include <vector>

#include "lattice/network/layer.hpp"

namespace lattice {

/// Each node of a graph takes from its neighbours, and from itself: shares·x, one more matrix
/// product in front of what follows. The adjacency `A` is given beside the features (`graph_of`),
/// and what each takes from each, `shares_of(A)`, is written down once, by the first such part.
///
/// @code
/// Network net(Shape{48}, "neighbours, dense 16 without bias, tanh, neighbours, dense 4", random);
/// @endcode
struct Neighbours {
  [[nodiscard]] static std::string_view kind() { return "neighbours"; }
  [[nodiscard]] static std::string text() { return "neighbours"; }
  [[nodiscard]] static LayerNature nature() { return {.uses_connections = true}; }

  /// As it came in. @throws ShapeError unless a node has one row of numbers.
  [[nodiscard]] static Shape shape(const Shape& example);
  [[nodiscard]] static std::vector<WeightNeed> weights(const Shape&) { return {}; }
  [[nodiscard]] static Line forward(const Line& x, Pass& pass);
};

}  // namespace lattice
