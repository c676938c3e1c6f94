#pragma once

#include <cstdint>
#include <filesystem>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <vector>

#include "lattice/data/table.hpp"
#include "lattice/graphs/edge_table.hpp"

namespace lattice {

/// Reads a list of edges: a CSV file as `read_table` takes it, with or without a first row of
/// names, or words between spaces. Lines that begin with `#` or `%` are left out.
/// @param names of the nodes; where there are none, the file has their numbers, from 0
/// @param separator found out when left out
/// @throws as `read_table` and `edges_from` do.
[[nodiscard]] std::vector<Edge> read_edges(const std::filesystem::path& path,
                                           std::span<const std::string> names, std::int64_t nodes,
                                           std::optional<char> separator = std::nullopt);

/// The same from text; `name` stands for it in messages.
[[nodiscard]] std::vector<Edge> parse_edges(std::string_view text, const std::string& name,
                                            std::span<const std::string> names, std::int64_t nodes,
                                            std::optional<char> separator = std::nullopt);

/// The edges of a graph, each once: two columns, and a third where their weights differ from 1.
/// @throws ShapeError for a dataset that is no graph.
[[nodiscard]] Table edges_table(const Dataset& graph);

}  // namespace lattice
