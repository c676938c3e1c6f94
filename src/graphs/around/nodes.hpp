#pragma once

#include <cstdint>
#include <string>
#include <vector>

#include "lattice/graphs/around/charts.hpp"
#include "lattice/lessons/prepare.hpp"
#include "lattice/show/shown_subject.hpp"

/// The nodes of a lesson's graph, as they are drawn.
namespace lattice {

/// The graph of a lesson, with what is learnt from as what is known.
/// @throws SettingError for a lesson whose rows have nothing to do with each other.
[[nodiscard]] Dataset graph_of_lesson(const Prepared& prepared);

/// The last layer of a network that gives two numbers for a node; empty where none does.
[[nodiscard]] std::string layer_of_two(const Network& network);

/// What is answered for each node, and where that lies: at two numbers of a layer, or at `places`.
struct NodesAsked {
  std::string layer = {};  ///< empty for `places`
  std::vector<std::int64_t> units = {0, 1};
  Tensor places = {};
};

/// @throws NameError for a layer that is not there, IndexError for a unit.
[[nodiscard]] NodesMoment nodes_at(const std::string& title, const Prepared& prepared,
                                   const Network& network, const Dataset& graph,
                                   const NodesAsked& asked);

/// The charts of graphs.
[[nodiscard]] std::vector<SubjectChart> graph_charts();

}  // namespace lattice
