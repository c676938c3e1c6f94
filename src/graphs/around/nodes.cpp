#include "graphs/around/nodes.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include "lattice/judging/answers.hpp"
#include "lattice/text/error.hpp"

namespace lattice {
namespace {

/// Two columns of what a layer gives.
Tensor two_of(const Line& line, const std::vector<std::int64_t>& units) {
  const Tensor& all = line.value();
  if (all.shape().rank() != 2) {
    throw ShapeError(
        {.what = fmt::format("{} does not give a row of numbers for a node", line.name()),
         .expected = "[node × unit]",
         .found = to_string(all.shape())});
  }
  Tensor two = zeros({all.shape()[0], 2});
  for (std::int64_t at = 0; at < 2; ++at) {
    const std::int64_t unit = units[static_cast<std::size_t>(at)];
    if (unit >= all.shape()[1]) {
      throw IndexError({.what = fmt::format("{} has no unit {}", line.name(), unit),
                        .expected = fmt::format("0 to {}", all.shape()[1] - 1),
                        .found = fmt::format("--units {}", fmt::join(units, ","))});
    }
    for (std::int64_t node = 0; node < all.shape()[0]; ++node)
      two.set({node, at}, all.at({node, unit}));
  }
  return two;
}

}  // namespace

Dataset graph_of_lesson(const Prepared& prepared) {
  Dataset graph = known_by_split(prepared.split);
  if (!graph.is_connected()) {
    throw SettingError({.what = fmt::format("{} is not a graph", graph.name),
                        .expected = "a graph: studios, or --file nodes.csv --edges edges.csv",
                        .found = "rows without edges"});
  }
  return graph;
}

std::string layer_of_two(const Network& network) {
  std::string layer;
  for (const Plan::Row& row : network.plan().rows) {
    if (row.outputs.rank() == 1 && row.outputs[0] == 2) layer = row.name;
  }
  return layer;
}

NodesMoment nodes_at(const std::string& title, const Prepared& prepared, const Network& network,
                     const Dataset& graph, const NodesAsked& asked) {
  Worksheet sheet;
  const Batch all = RowSet(graph).all();
  const Line scores = write_scores(sheet, network, prepared.loss, write_given(sheet, all).x);
  NodesMoment moment{.title = title, .places = asked.places};
  if (!asked.layer.empty()) moment.places = two_of(sheet.line(asked.layer), asked.units);
  if (graph.has_classes())
    moment.answers = answers_of(scores.value(), outputs_of(network, prepared.loss));
  return moment;
}

}  // namespace lattice
