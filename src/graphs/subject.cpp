#include "lattice/graphs/subject.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <string>
#include <vector>

#include "graphs/demo_sets.hpp"
#include "lattice/data/split.hpp"
#include "lattice/graphs/adjacency.hpp"
#include "lattice/graphs/graph.hpp"
#include "lattice/graphs/neighbours.hpp"
#include "lattice/graphs/plan.hpp"
#include "lattice/network/subject.hpp"

namespace lattice {
namespace {

/// The names of the first few nodes of some.
std::string some_of(const Dataset& graph, const std::vector<std::int64_t>& nodes) {
  constexpr std::size_t most = 5;
  std::vector<std::string> names;
  for (std::size_t at = 0; at < std::min(nodes.size(), most); ++at)
    names.push_back(graph.row_name(nodes[at]));
  return fmt::format("{}{}", fmt::join(names, ", "), nodes.size() > most ? " …" : "");
}

std::vector<Remark> remarks_on_graph(const Split& split) {
  std::vector<Remark> remarks;
  const Dataset graph = known_by_split(split);
  const GraphFacts facts = facts_of(graph);
  if (const auto count = std::ssize(facts.alone); count > 0) {
    remarks.push_back(
        {.code = "nodes-alone",
         .text = fmt::format("{} without an edge ({}): the answer for {} depends on no other node",
                             counted(count, Role::node, "node", "nodes"),
                             some_of(graph, facts.alone), count == 1 ? "it" : "them"),
         .remedy = "an edge, or features"});
  }
  if (const auto count = std::ssize(facts.without_known); count > 0) {
    remarks.push_back({.code = "component-without-label",
                       .text = fmt::format("{} of the graph without a known label (that of {}): no "
                                           "path leads from a label to them",
                                           counted(count, Role::none, "component", "components"),
                                           some_of(graph, facts.without_known)),
                       .remedy = "a known label in each component, or an edge between them"});
  }
  return remarks;
}

Remark remark_on_unused_edges(const std::string& blueprint) {
  return {.code = "edges-unused",
          .text =
              "the data are a graph, but no layer uses its edges: each answer depends on the "
              "node's own features only",
          .remedy = "put neighbours before a dense layer",
          .advice = {"net", "neighbours, " + blueprint}};
}

Layer read_neighbours(Scanner&) {
  return Neighbours{};
}

Subject graphs_subject() {
  return {.name = "graphs",
          .rows = RowKind{
              .name = "graph",
              .one = "node",
              .several = "nodes",
              .first_layer = "neighbours",
              .is_kind_of = [](const Dataset& data) { return adjacency_of(data) != nullptr; },
              .remark_codes = {"edges-unused", "nodes-alone", "component-without-label"},
              .remarks_on = remarks_on_graph,
              .connections_unused = remark_on_unused_edges,
              .plan_for_all =
                  [](const Plan& of_one, const Dataset& data) {
                    return plan_over(of_one, *adjacency_of(data), data.features.all());
                  }},
          .layers = {{"neighbours", read_neighbours}},
          .demo_sets = {{.name = "studios",
                         .story = "which of four guilds a potter belongs to, from who shares a "
                                  "kiln with whom: a graph "
                                  "in which two potters of each guild are known",
                         .usual_rows = 48,
                         .copied_rows = 48,
                         .usual_seed = 1,
                         .make = make_studios}},
          .functions = {sheet_function("with_loops", [](const auto& x) { return with_loops(x); }),
                        {.name = "scale_both",
                         .fewest = 3,
                         .most = 3,
                         .form = "scale_both(A, rows, columns)",
                         .carry_out = [](SheetCall& call) {
                           return call.of_all(
                               [](const auto& x) { return scale_both(x[0], x[1], x[2]); });
                         }}}};
}

}  // namespace

bool use_graphs() {
  return use(graphs_subject());
}

}  // namespace lattice
