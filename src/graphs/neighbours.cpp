#include "lattice/graphs/neighbours.hpp"

#include <algorithm>
#include <string>
#include <vector>

#include "lattice/graphs/adjacency.hpp"
#include "lattice/graphs/graph.hpp"
#include "lattice/text/error.hpp"
#include "lattice/worksheet/operations/products.hpp"

namespace lattice {
namespace {

/// The line of the shares: given, or written down where it is not there yet. A layer may be called
/// like it.
Line shares_in(const Pass& pass) {
  const std::string section = "graph";
  const std::vector<Line> lines = pass.sheet().lines();
  const auto known = std::ranges::find_if(lines, [&](const Line& line) {
    const bool is_ours = line.kind() == Line::Kind::given || line.section() == section;
    return line.name() == shares_name && is_ours;
  });
  if (known != lines.end()) return *known;
  const Line adjacency = pass.side(adjacency_name, "the data of graph_of(rows, edges) have it");
  pass.sheet().section(section);
  const Line shares = normalised_adjacency(adjacency);
  pass.sheet().section(pass.name());
  return shares;
}

}  // namespace

Shape Neighbours::shape(const Shape& example) {
  if (example.rank() == 1) return example;
  throw ShapeError({.what = "neighbours needs a row of numbers for each node",
                    .expected = "[feature]",
                    .found = to_string(example),
                    .remedy = "flatten in front of it"});
}

Line Neighbours::forward(const Line& x, Pass& pass) {
  return matmul(shares_in(pass), x);
}

}  // namespace lattice
