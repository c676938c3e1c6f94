// Graphs beside Eigen's own sparse product.

#include <cstdint>
#include <memory>
#include <vector>

#include "by_hand.hpp"
#include "comparisons.hpp"
#include "lattice/lattice.hpp"

namespace bench {
namespace {

using namespace lattice;

constexpr std::int64_t units = 16;

/// A graph of so many nodes and edges, drawn at random.
Dataset drawn_graph(std::int64_t nodes, std::int64_t edges) {
  Random random(1);
  std::vector<Edge> all;
  all.reserve(static_cast<std::size_t>(edges));
  for (std::int64_t edge = 0; edge < edges; ++edge)
    all.push_back({random.below(nodes), random.below(nodes)});
  std::vector<double> classes;
  for (std::int64_t node = 0; node < nodes; ++node)
    classes.push_back(static_cast<double>(random.below(4)));
  return graph_of(
      dataset_of_classes(normal({nodes, units}, 0, 1, random), tensor({nodes}, classes)), all,
      {.known = {0, 1, 2, 3, 4, 5, 6, 7}});
}

/// The shares of a graph of 100 000 nodes and a million edges times 16 columns, or turned.
Pair sparse_product(bool turned) {
  const Dataset graph = drawn_graph(100'000, 1'000'000);
  const auto shares = std::make_shared<const Tensor>(normalised_adjacency(*adjacency_of(graph)));
  by_hand::SparseTask task{
      .nodes = 100'000, .units = units, .rows = {}, .columns = {}, .numbers = {}};
  for (const MatrixEntry& entry : entries_of(*shares)) {
    task.rows.push_back(static_cast<int>(entry.row));
    task.columns.push_back(static_cast<int>(entry.column));
    task.numbers.push_back(entry.number);
  }
  const auto x = std::make_shared<const Tensor>(graph.features.all());
  return {.ours =
              [shares, x, turned] {
                const Threads one(1);
                return matmul(*shares, *x, {.first = turned}).at({0, 0});
              },
          .by_hand = by_hand::sparse_product(task, x->numbers(), turned)};
}

/// An epoch of a network with two products, with twice as many edges and nodes as the other; both
/// are too large for what a processor keeps near.
Pair epoch_by_edges() {
  const auto epoch = [](std::int64_t nodes, std::int64_t edges) {
    Random dealing(1);
    const auto parts = std::make_shared<const Split>(split(drawn_graph(nodes, edges), {}, dealing));
    const auto net = std::make_shared<Network>(
        parts->data().example(), "neighbours, dense 16 without bias, tanh, neighbours, dense 4",
        Random(1));
    return [parts, net] {
      const Threads one(1);
      Worksheet sheet;
      const Batch batch = parts->train.all();
      const GivenLines given = write_given(sheet, batch);
      const Line scores = write_scores(sheet, *net, lattice::Loss::cross_entropy, given.x);
      const Line loss = write_loss(sheet, lattice::Loss::cross_entropy, scores, given);
      static_cast<void>(reverse_sweep(loss));
      return loss.value().number();
    };
  };
  return {.ours = epoch(200'000, 2'000'000),
          .by_hand = epoch(100'000, 1'000'000),
          .tolerance = 10.0,
          .scale = 2.0};
}

}  // namespace

std::vector<Comparison> comparisons_of_graphs() {
  return {{"sparse-product", 20, [] { return sparse_product(false); }},
          {"sparse-product-turned", 20, [] { return sparse_product(true); }},
          {"twice-the-edges", 10, epoch_by_edges}};
}

}  // namespace bench
