#include "lattice/graphs/plan.hpp"

#include <algorithm>
#include <numeric>
#include <vector>

#include "lattice/graphs/adjacency.hpp"
#include "lattice/tensor/sparse.hpp"

namespace lattice {
namespace {

std::int64_t total(const std::vector<Plan::Row>& rows, std::int64_t Plan::Row::*of) {
  return std::accumulate(rows.begin(), rows.end(), std::int64_t{0},
                         [of](std::int64_t sum, const Plan::Row& row) { return sum + row.*of; });
}

/// A graph that goes through layers: how many nodes it has, how many shares each takes from each,
/// and how many numbers of all nodes are stored, which are few as long as each node is its own
/// feature.
struct PassedAlong {
  std::int64_t nodes;
  std::int64_t shares;
  std::int64_t stored;
};

void count_for_all(std::vector<Plan::Row>& rows, std::int64_t numbers_before, PassedAlong& graph);

/// Counts for all nodes what is counted for one.
void count_for_all(Plan::Row& row, std::int64_t numbers_before, PassedAlong& graph) {
  const std::int64_t numbers = graph.nodes * row.outputs.count();
  const bool is_sparse = graph.stored < graph.nodes * numbers_before;
  if (!row.inside.empty()) {
    PassedAlong passing = graph;
    count_for_all(row.inside, numbers_before, graph);
    count_for_all(row.projection, numbers_before, passing);
    row.multiplications = total(row.inside, &Plan::Row::multiplications) +
                          total(row.projection, &Plan::Row::multiplications);
    row.written = total(row.inside, &Plan::Row::written) +
                  total(row.projection, &Plan::Row::written) + (row.adds_its_input ? numbers : 0);
    graph.stored = numbers;
    return;
  }
  if (row.uses_connections) {
    const bool is_each_its_own = is_sparse && graph.stored == graph.nodes;
    row.multiplications = is_each_its_own ? graph.shares : graph.shares * row.outputs.count();
    graph.stored = is_each_its_own ? graph.shares : numbers;
    row.written = graph.stored;
    return;
  }
  // Of a product with what is sparse, what is not stored is not multiplied.
  row.multiplications = is_sparse ? row.multiplications / numbers_before * graph.stored
                                  : row.multiplications * graph.nodes;
  row.written *= graph.nodes;
  graph.stored = numbers;
}

void count_for_all(std::vector<Plan::Row>& rows, std::int64_t numbers_before, PassedAlong& graph) {
  for (Plan::Row& row : rows) {
    count_for_all(row, numbers_before, graph);
    numbers_before = row.outputs.count();
  }
}

bool has_edges(const std::vector<Plan::Row>& rows) {
  return std::ranges::any_of(rows, [](const Plan::Row& row) {
    return row.uses_connections || has_edges(row.inside) || has_edges(row.projection);
  });
}

}  // namespace

Plan plan_over(const Plan& of_one, const Tensor& adjacency, const Tensor& features) {
  Plan plan = of_one;
  plan.together = adjacency.shape()[0];
  plan.whole = "the graph of " + counted(*plan.together, Role::node, "node", "nodes");
  const std::int64_t stored = stored_count(features);
  PassedAlong graph{
      .nodes = *plan.together, .shares = stored_count(with_loops(adjacency)), .stored = stored};
  count_for_all(plan.rows, plan.example.count(), graph);
  plan.written_at_first = stored + stored_count(adjacency);
  // A + I and the shares; the degrees and what each is scaled by.
  if (has_edges(plan.rows)) plan.written_at_first += 2 * graph.shares + 2 * graph.nodes;
  return plan;
}

}  // namespace lattice
