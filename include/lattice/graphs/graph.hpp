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

/// Two nodes of a graph, by their numbers from 0, and how strongly they are joined.
struct Edge {
  std::int64_t from = 0;
  std::int64_t to = 0;
  double weight = 1.0;  ///< above 0

  friend bool operator==(const Edge&, const Edge&) = default;
};

struct EdgeSettings {
  bool directed = false;                 ///< an edge leads from its first node to its second alone
  std::vector<std::string> names = {};   ///< of the nodes, each once; as the dataset says, if none
  std::vector<std::int64_t> known = {};  ///< whose truth may be learnt from; likewise
  std::vector<std::int64_t> unlabelled = {};  ///< whose truth nobody knows; likewise
};

/// The examples of a dataset as the nodes of a graph. What a node takes from stands in its row of
/// the side input `A`: for an edge from Ada to Bo that is Bo's row, and Ada's too unless the graph
/// is directed.
///
/// All nodes are one batch: a part of the data is the whole graph, in which only some nodes count
/// (`RowSet`). Edges of a node to itself are left out, since `shares_of` joins each with itself; an
/// edge that is listed again counts once.
///
/// @code
/// const Dataset people = dataset_of_classes(each_its_own(3), tensor({0, 1, 1}));
/// const std::vector<Edge> edges = {{0, 1}, {1, 2}};
/// const Dataset graph = graph_of(people, edges, {.names = {"Ada", "Bo", "Cy"}, .known = {0, 2}});
/// @endcode
/// @throws IndexError for a node that is not there, or whose truth is known and is not;
///         NumberError for a weight that is not above 0,
///         or for an edge that is listed again with another; NameError for a name that is there
///         twice; ShapeError when names or features do not fit.
[[nodiscard]] Dataset graph_of(const Dataset& nodes, const std::vector<Edge>& edges,
                               const EdgeSettings& settings = {});

/// The adjacency of a dataset; null where it is no graph.
[[nodiscard]] const Tensor* adjacency_of(const Dataset& data);

/// The edges of a graph, each once: of one that is not directed with the lower node first.
/// @throws ShapeError for a dataset that is no graph.
[[nodiscard]] std::vector<Edge> edges_of(const Dataset& graph);

/// The node of a name, or of a number from 0. @throws NameError with the nearest name.
[[nodiscard]] std::int64_t node_called(const Dataset& graph, std::string_view name);

/// How a graph hangs together.
struct GraphFacts {
  std::int64_t nodes = 0;
  std::int64_t edges = 0;
  bool directed = false;
  std::vector<std::int64_t> alone = {};  ///< nodes without an edge
  std::int64_t components = 0;           ///< of connected nodes

  /// The first node of each piece of two nodes or more in which nobody's truth is known: nothing
  /// that is learnt there comes from a label.
  std::vector<std::int64_t> without_known = {};
};

/// @throws ShapeError for a dataset that is no graph.
[[nodiscard]] GraphFacts facts_of(const Dataset& graph);

}  // namespace lattice
