#include "lattice/graphs/edge_table.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <cmath>
#include <optional>
#include <string_view>
#include <unordered_map>

#include "lattice/text/error.hpp"
#include "lattice/text/letters.hpp"
#include "lattice/text/nearest.hpp"
#include "lattice/text/numbers.hpp"

namespace lattice {
namespace {

/// Finds nodes by what a table calls them.
class NodesCalled {
 public:
  NodesCalled(std::span<const std::string> names, std::int64_t nodes)
      : names_(names), nodes_(nodes) {
    for (std::size_t node = 0; node < names.size(); ++node)
      numbers_.emplace(names[node], static_cast<std::int64_t>(node));
  }

  [[nodiscard]] std::optional<std::int64_t> find(std::string_view name) const {
    if (names_.empty()) {
      const std::optional<std::int64_t> number = parse_whole_number(name);
      return number && *number >= 0 && *number < nodes_ ? number : std::nullopt;
    }
    const auto found = numbers_.find(name);
    return found == numbers_.end() ? std::nullopt : std::optional(found->second);
  }

  /// A node whose name is as good as this one, for a remedy; empty where there is none.
  [[nodiscard]] std::string remedy(std::string_view name) const {
    if (names_.empty()) {
      return parse_whole_number(name) == nodes_ ? "are the nodes counted from 1? Give them names"
                                                : "";
    }
    const std::string near = nearest(name, std::vector<std::string>(names_.begin(), names_.end()));
    return near.empty() ? "every node has a row in the file of the nodes" : did_you_mean(near);
  }

  [[nodiscard]] std::string expected() const {
    if (names_.empty()) return fmt::format("a row of the nodes, 0 to {}", nodes_ - 1);
    return fmt::format("one of {} nodes, such as {}", nodes_, names_.front());
  }

 private:
  std::span<const std::string> names_;
  std::int64_t nodes_;
  std::unordered_map<std::string_view, std::int64_t> numbers_ = {};
};

std::string_view end_in(const Table& table, std::size_t row, std::size_t end) {
  return trimmed(table.rows[row][end]);
}

std::int64_t node_in(const Table& table, std::size_t row, std::size_t end,
                     const NodesCalled& nodes) {
  const std::string_view name = end_in(table, row, end);
  if (const std::optional<std::int64_t> node = nodes.find(name)) return *node;
  throw FileError({.what = fmt::format("an edge has an unknown node: '{}'", name),
                   .where = table.place(row),
                   .expected = nodes.expected(),
                   .found = fmt::format("{}", fmt::join(table.rows[row], ", ")),
                   .remedy = nodes.remedy(name)});
}

double weight_in(const Table& table, std::size_t row) {
  if (table.header.size() < 3) return 1.0;
  const std::optional<double> weight = parse_number(trimmed(table.rows[row][2]));
  if (weight && std::isfinite(*weight) && *weight > 0.0) return *weight;
  throw FileError({.what = "an edge weight is not positive and finite",
                   .where = table.place(row),
                   .expected = "a number above 0 in the third column, or no third column",
                   .found = fmt::format("'{}'", table.rows[row][2])});
}

}  // namespace

std::vector<Edge> edges_from(const Table& table, std::span<const std::string> names,
                             std::int64_t count) {
  if (table.header.size() != 2 && table.header.size() != 3) {
    throw FileError(
        {.what = fmt::format("{} is not a list of edges", table.name),
         .expected = "two columns, a node in each; a third may say how strong an edge is",
         .found = fmt::format("{} columns", table.header.size())});
  }
  const NodesCalled nodes(names, count);
  const bool has_header = !nodes.find(end_in(table, 0, 0)) && !nodes.find(end_in(table, 0, 1));
  if (has_header && table.rows.size() == 1) {
    throw FileError({.what = fmt::format("{} contains no edge", table.name),
                     .where = table.place(0),
                     .expected = nodes.expected() + ", and another, in a row",
                     .found = fmt::format("{}", fmt::join(table.rows[0], ", "))});
  }
  std::vector<Edge> edges;
  edges.reserve(table.rows.size());
  for (std::size_t row = has_header ? 1 : 0; row < table.rows.size(); ++row) {
    edges.push_back({.from = node_in(table, row, 0, nodes),
                     .to = node_in(table, row, 1, nodes),
                     .weight = weight_in(table, row)});
  }
  return edges;
}

}  // namespace lattice
