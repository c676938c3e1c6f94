#pragma once

#include <cstdint>
#include <string>
#include <string_view>
#include <vector>

#include "lattice/network/layer.hpp"

namespace lattice {

/// The weighted sum over each node's neighbours and itself: shares·x, one more matrix product. The
/// adjacency `A` is a side input (`graph_of`), and its normalised form `normalised_adjacency(A)` is
/// added to the worksheet once, by the first such layer.
///
/// @code
/// Network net(Shape{48}, "neighbours, dense 16 without bias, tanh, neighbours, dense 4", random);
/// @endcode
struct Neighbours {
  [[nodiscard]] static std::string_view kind() { return "neighbours"; }
  [[nodiscard]] static std::string text() { return "neighbours"; }
  [[nodiscard]] static LayerNature nature() { return {.uses_connections = true}; }

  /// That of the input. @throws ShapeError unless a node has one row of numbers.
  [[nodiscard]] static Shape shape(const Shape& example);
  [[nodiscard]] static std::vector<WeightNeed> weights(const Shape&) { return {}; }
  [[nodiscard]] static Line forward(const Line& x, Pass& pass);
};

}  // namespace lattice
