#include "graphs/around/model_graph.hpp"

#include <fmt/format.h>

#include <vector>

#include "lattice/graphs/graph.hpp"
#include "lattice/tensor/sparse.hpp"

namespace lattice::model_files {
namespace {

std::vector<Edge> edges_in(const Reader& reader) {
  std::vector<Edge> edges;
  for (const Reader& item : reader.items()) {
    const std::vector<Reader> ends = item.items();
    if (ends.size() != 2 && ends.size() != 3) item.refuse("two nodes, and an optional weight");
    edges.push_back({.from = ends[0].whole(),
                     .to = ends[1].whole(),
                     .weight = ends.size() == 3 ? ends[2].number() : 1.0});
  }
  return edges;
}

}  // namespace

Json graph_json(const Dataset& graph) {
  Json edges = Json::array();
  for (const Edge& edge : edges_of(graph)) {
    edges.push_back({edge.from, edge.to});
    if (edge.weight != 1.0) edges.back().push_back(edge.weight);
  }
  return {{"nodes", graph.rows()},
          {"names", graph.row_names.empty() ? Json() : Json(graph.row_names)},
          {"directed", !is_symmetric(*adjacency_of(graph))},
          {"edges", std::move(edges)},
          {"features", graph.has_own_features() ? Json() : to_json(graph.features.all())}};
}

Dataset graph_in(const Reader& reader, std::int64_t features, Precision precision) {
  const std::int64_t nodes = reader["nodes"].whole(1);
  const bool are_own = reader["features"].is_null();
  if (are_own && nodes != features) {
    reader["nodes"].refuse(fmt::format("{}, as the network takes this many features", features));
  }
  // Not much more memory is taken than the file has edges for.
  const std::vector<Edge> edges = edges_in(reader["edges"]);
  constexpr std::int64_t always_fit = 1'000'000;
  if (nodes > always_fit + std::ssize(edges)) {
    reader["nodes"].refuse(fmt::format("at most {} where there are {} edges",
                                       always_fit + std::ssize(edges), edges.size()));
  }
  Dataset data{.name = {},
               .features = are_own ? each_its_own(nodes, precision)
                                   : Examples(reader["features"].tensor(
                                         Shape{nodes, features}.with({Role::node, Role::feature}),
                                         precision))};
  const Reader names = reader["names"];
  try {
    return graph_of(data, edges,
                    {.directed = reader["directed"].truth(),
                     .names = names.is_null() ? std::vector<std::string>() : names.texts()});
  } catch (const FileError&) {
    throw;
  } catch (const Error& error) {
    reader.refuse(error.trouble().expected, error.trouble().what);
  }
}

}  // namespace lattice::model_files
