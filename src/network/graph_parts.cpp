#include "lattice/network/graph_parts.hpp"

#include <string>

#include "lattice/data/graph.hpp"
#include "lattice/text/error.hpp"
#include "lattice/worksheet/operations/graphs.hpp"
#include "lattice/worksheet/operations/products.hpp"

namespace lattice {
namespace {

/// The line of the shares, written down where it is not there yet.
Line shares_in(const Pass& pass) {
  if (const std::optional<Line> known = pass.sheet().find(shares_name)) return *known;
  const Line adjacency = pass.side(adjacency_name);
  pass.sheet().section("graph");
  const Line shares = shares_of(adjacency);
  pass.sheet().section(pass.name());
  return shares;
}

}  // namespace

Shape Neighbours::shape(const Shape& example) {
  if (example.rank() == 1) return example;
  throw ShapeError({.what = "neighbours add up rows of numbers, one for each node",
                    .expected = "[feature]",
                    .found = to_string(example),
                    .remedy = "flatten in front of it"});
}

Line Neighbours::forward(const Line& x, Pass& pass) {
  return matmul(shares_in(pass), x);
}

}  // namespace lattice
