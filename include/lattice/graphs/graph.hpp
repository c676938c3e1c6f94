#pragma once

#include <cstdint>
#include <span>
#include <string>
#include <string_view>
#include <vector>

#include "lattice/data/dataset.hpp"

namespace lattice {

/// The side input that is a graph's adjacency: [node × node].
inline constexpr std::string_view adjacency_name = "A";

/// An edge: two nodes, by their numbers from 0, and a weight.
struct Edge {
  std::int64_t from = 0;
  std::int64_t to = 0;
  double weight = 1.0;  ///< above 0

  friend bool operator==(const Edge&, const Edge&) = default;
};

struct EdgeSettings {
  bool directed = false;                 ///< an edge leads from its first node to its second only
  std::vector<std::string> names = {};   ///< of the nodes, unique; by default those of the dataset
  std::vector<std::int64_t> known = {};  ///< nodes whose labels are for training; likewise
  std::vector<std::int64_t> unlabelled = {};  ///< nodes without a label; likewise
};

/// The examples of a dataset as the nodes of a graph. The neighbours that a node uses are in its
/// row of the side input `A`: an edge from Ada to Bo is in Bo's row, and in Ada's unless the graph
/// is directed.
///
/// All nodes are one batch: a part of the data is the whole graph, in which only some nodes count
/// (`RowSet`). Edges of a node to itself are left out, since `normalised_adjacency` adds them;
/// duplicate edges count once.
///
/// @code
/// const Dataset people = dataset_of_classes(each_its_own(3), tensor({0, 1, 1}));
/// const std::vector<Edge> edges = {{0, 1}, {1, 2}};
/// const Dataset graph = graph_of(people, edges, {.names = {"Ada", "Bo", "Cy"}, .known = {0, 2}});
/// @endcode
/// @throws IndexError for a node that does not exist, or is both known and unlabelled; NumberError
///         for a weight that is not above 0, or duplicate edges with different weights; NameError
///         for a duplicate name; ShapeError when names or features do not fit.
[[nodiscard]] Dataset graph_of(const Dataset& nodes, const std::vector<Edge>& edges,
                               const EdgeSettings& settings = {});

/// The adjacency of a dataset; null if it is not a graph.
[[nodiscard]] const Tensor* adjacency_of(const Dataset& data);

/// The edges of a graph, each once; those of an undirected graph with the lower node first.
/// @throws ShapeError for a dataset that is not a graph.
[[nodiscard]] std::vector<Edge> edges_of(const Dataset& graph);

/// The node with a name, or a number from 0. @throws NameError with the nearest name.
[[nodiscard]] std::int64_t node_called(const Dataset& graph, std::string_view name);

/// Facts about the connections of a graph.
struct GraphFacts {
  std::int64_t nodes = 0;
  std::int64_t edges = 0;
  bool directed = false;
  std::vector<std::int64_t> alone = {};  ///< nodes without an edge
  std::int64_t components = 0;           ///< of connected nodes

  /// The first node of each component of two nodes or more without a known label.
  std::vector<std::int64_t> without_known = {};
};

/// @throws ShapeError for a dataset that is no graph.
[[nodiscard]] GraphFacts facts_of(const Dataset& graph);

}  // namespace lattice
