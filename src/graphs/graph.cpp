#include "lattice/graphs/graph.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <map>
#include <numeric>
#include <optional>
#include <set>

#include "lattice/tensor/sparse.hpp"
#include "lattice/text/error.hpp"
#include "lattice/text/nearest.hpp"
#include "lattice/text/numbers.hpp"

namespace lattice {
namespace {

std::string edge_in_words(const Edge& edge, std::size_t number) {
  return fmt::format("edge {}, from {} to {}", number, edge.from, edge.to);
}

void check_edge(const Edge& edge, std::size_t number, std::int64_t nodes) {
  for (const std::int64_t end : {edge.from, edge.to}) {
    if (end >= 0 && end < nodes) continue;
    throw IndexError({.what = fmt::format("there is no node {}", end),
                      .where = edge_in_words(edge, number),
                      .expected = fmt::format("0 to {}", nodes - 1),
                      .found = fmt::format("{}", end)});
  }
  if (std::isfinite(edge.weight) && edge.weight > 0.0) return;
  throw NumberError({.what = "an edge weight is not positive and finite",
                     .where = edge_in_words(edge, number),
                     .expected = "a number above 0; leave an edge out instead of weight 0",
                     .found = format_number(edge.weight)});
}

/// The adjacency of some edges, each once.
Tensor adjacency(std::span<const Edge> edges, std::int64_t nodes, bool directed,
                 Precision precision) {
  std::vector<Edge> all;
  all.reserve(edges.size());
  for (std::size_t at = 0; at < edges.size(); ++at) {
    Edge edge = edges[at];
    check_edge(edge, at, nodes);
    if (edge.from == edge.to) continue;
    if (!directed && edge.from > edge.to) std::swap(edge.from, edge.to);
    all.push_back(edge);
  }
  std::ranges::sort(all, {}, [](const Edge& edge) { return std::pair(edge.from, edge.to); });
  std::vector<MatrixEntry> entries;
  entries.reserve(all.size() * (directed ? 1 : 2));
  for (std::size_t at = 0; at < all.size(); ++at) {
    const Edge& edge = all[at];
    if (at > 0 && edge.from == all[at - 1].from && edge.to == all[at - 1].to) {
      if (edge.weight == all[at - 1].weight) continue;
      throw NumberError({.what = "an edge is listed twice with different weights",
                         .where = fmt::format("nodes {} and {}", edge.from, edge.to),
                         .expected = "an edge once, or again with the same weight",
                         .found = fmt::format("{} and {}", format_number(all[at - 1].weight),
                                              format_number(edge.weight)),
                         .remedy = directed ? ""
                                            : "is it another weight in each direction? Then "
                                              "the graph is directed"});
    }
    entries.push_back({edge.to, edge.from, edge.weight});
    if (!directed) entries.push_back({edge.from, edge.to, edge.weight});
  }
  return sparse_matrix(Shape{nodes, nodes}.with({Role::node, Role::node}), entries, precision);
}

void check_names(const std::vector<std::string>& names, std::int64_t nodes) {
  if (names.empty()) return;
  if (std::ssize(names) != nodes) {
    throw ShapeError({.what = "the number of names does not match the nodes",
                      .expected = fmt::format("{} names, or none", nodes),
                      .found = fmt::format("{}", names.size())});
  }
  std::map<std::string, std::size_t> met;
  for (std::size_t node = 0; node < names.size(); ++node) {
    const auto [first, is_new] = met.emplace(names[node], node);
    if (is_new) continue;
    throw NameError({.what = fmt::format("two nodes are called '{}'", names[node]),
                     .where = fmt::format("nodes {} and {}", first->second, node),
                     .expected = "a name of its own for each node"});
  }
}

/// Nodes each once and in order. @throws IndexError for one that is not there.
void put_in_order(std::vector<std::int64_t>& some, std::int64_t nodes) {
  std::ranges::sort(some);
  some.erase(std::unique(some.begin(), some.end()), some.end());
  for (const std::int64_t node : some) {
    if (node >= 0 && node < nodes) continue;
    throw IndexError({.what = fmt::format("there is no node {} whose truth could be known", node),
                      .expected = fmt::format("0 to {}", nodes - 1),
                      .found = fmt::format("{}", node)});
  }
}

const Tensor& adjacency_in(const Dataset& graph) {
  const Tensor* const adjacency = adjacency_of(graph);
  if (adjacency != nullptr) return *adjacency;
  throw ShapeError({.what = fmt::format("{} is not a graph", graph.name),
                    .expected = "a dataset with edges between its rows",
                    .found = "one without",
                    .remedy = "graph_of(data, edges)"});
}

/// The components of a graph, merged edge by edge.
class Components {
 public:
  explicit Components(std::int64_t nodes) : above_(static_cast<std::size_t>(nodes)) {
    std::iota(above_.begin(), above_.end(), std::int64_t{0});
  }

  /// The lowest node of the component of a node.
  std::int64_t of(std::int64_t node) {
    while (above(node) != node) {
      above(node) = above(above(node));
      node = above(node);
    }
    return node;
  }

  void join(std::int64_t a, std::int64_t b) {
    const auto [low, high] = std::minmax({of(a), of(b)});
    above(high) = low;
  }

 private:
  std::int64_t& above(std::int64_t node) { return above_[static_cast<std::size_t>(node)]; }

  std::vector<std::int64_t> above_;
};

}  // namespace

Dataset graph_of(const Dataset& nodes, const std::vector<Edge>& edges,
                 const EdgeSettings& settings) {
  if (!nodes.is_table()) {
    throw ShapeError({.what = "the number of rows and the number of nodes differ",
                      .expected = "[node × feature]",
                      .found = to_string(nodes.features.shape())});
  }
  Dataset graph = nodes;
  if (!settings.names.empty()) graph.row_names = settings.names;
  if (!settings.known.empty()) graph.known = settings.known;
  if (!settings.unlabelled.empty()) graph.unlabelled = settings.unlabelled;
  put_in_order(graph.known, graph.rows());
  put_in_order(graph.unlabelled, graph.rows());
  check_names(graph.row_names, graph.rows());
  graph.features.label(0, Role::node);
  for (Tensor* const truth : {&graph.targets, &graph.classes}) {
    if (!truth->empty()) truth->label(0, Role::node);
  }
  for (SideInput& side : graph.side) {
    if (side.by_row) side.value.label(0, Role::node);
  }
  // What is each node's own is called after it.
  if (graph.has_own_features()) graph.feature_names = graph.row_names;
  std::erase_if(graph.side, &SideInput::between_rows);
  graph.side.push_back(
      {.name = std::string(adjacency_name),
       .value = adjacency(edges, graph.rows(), settings.directed, graph.features.precision()),
       .between_rows = true});
  for (const std::int64_t node : graph.known) {
    if (graph.has_truth(node)) continue;
    throw IndexError(
        {.what = fmt::format("{} is known and unlabelled at once", graph.row_name(node)),
         .expected = "a node with a known label, or an unlabelled one",
         .found = fmt::format("node {} as both", node)});
  }
  return graph;
}

const Tensor* adjacency_of(const Dataset& data) {
  const auto found = std::ranges::find_if(data.side, &SideInput::between_rows);
  return found == data.side.end() ? nullptr : &found->value;
}

std::vector<Edge> edges_of(const Dataset& graph) {
  const Tensor& adjacency = adjacency_in(graph);
  const bool directed = !is_symmetric(adjacency);
  std::vector<Edge> edges;
  for (const MatrixEntry& entry : entries_of(adjacency)) {
    if (directed || entry.column < entry.row)
      edges.push_back({entry.column, entry.row, entry.number});
  }
  std::ranges::sort(edges, {}, [](const Edge& edge) { return std::pair(edge.from, edge.to); });
  return edges;
}

std::int64_t node_called(const Dataset& graph, std::string_view name) {
  const auto found = std::ranges::find(graph.row_names, name);
  if (found != graph.row_names.end()) return found - graph.row_names.begin();
  const std::optional<std::int64_t> number = parse_whole_number(name);
  if (number && *number >= 0 && *number < graph.rows()) return *number;
  const std::string near = nearest(name, graph.row_names);
  throw NameError(
      {.what = fmt::format("no node is called '{}'", name),
       .expected = fmt::format("the name of a node, such as {}, or a number from 0 to {}",
                               graph.row_name(0), graph.rows() - 1),
       .found = fmt::format("'{}'", name),
       .remedy = did_you_mean(near)});
}

GraphFacts facts_of(const Dataset& graph) {
  const std::vector<Edge> edges = edges_of(graph);
  GraphFacts facts{.nodes = graph.rows(),
                   .edges = std::ssize(edges),
                   .directed = !is_symmetric(adjacency_in(graph))};
  Components components(facts.nodes);
  for (const Edge& edge : edges)
    components.join(edge.from, edge.to);
  std::vector<std::int64_t> sizes(static_cast<std::size_t>(facts.nodes));
  for (std::int64_t node = 0; node < facts.nodes; ++node)
    ++sizes[static_cast<std::size_t>(components.of(node))];
  std::set<std::int64_t> with_known;
  for (const std::int64_t node : graph.known)
    with_known.insert(components.of(node));
  for (std::int64_t node = 0; node < facts.nodes; ++node) {
    if (components.of(node) != node) continue;
    ++facts.components;
    const bool is_alone = sizes[static_cast<std::size_t>(node)] == 1;
    if (is_alone) facts.alone.push_back(node);
    if (!is_alone && !graph.known.empty() && !with_known.contains(node))
      facts.without_known.push_back(node);
  }
  return facts;
}

}  // namespace lattice
