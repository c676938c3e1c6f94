#include "lattice/graphs/around/edges.hpp"

#include "files/file.hpp"
#include "lattice/files/csv.hpp"

namespace lattice {
namespace {

/// The text with lines that say nothing emptied, so that others keep their numbers.
std::string without_comments(std::string_view text) {
  std::string rest;
  rest.reserve(text.size());
  while (!text.empty()) {
    const std::size_t length = std::min(text.find('\n'), text.size() - 1) + 1;
    const bool is_comment = text.front() == '#' || text.front() == '%';
    rest += is_comment ? std::string_view("\n") : text.substr(0, length);
    text.remove_prefix(length);
  }
  return rest;
}

/// True where the first line that says something has words between spaces, and no other sign.
bool is_spaced(std::string_view text) {
  const std::size_t begin = text.find_first_not_of("\r\n");
  if (begin == std::string_view::npos) return false;
  const std::string_view line = text.substr(begin, text.find_first_of("\r\n", begin) - begin);
  return line.find(' ') != std::string_view::npos &&
         line.find_first_of(",;\t|\"") == std::string_view::npos;
}

}  // namespace

std::vector<Edge> read_edges(const std::filesystem::path& path, std::span<const std::string> names,
                             std::int64_t nodes, std::optional<char> separator) {
  return parse_edges(read_file(path, "a list of edges"), path.filename().string(), names, nodes,
                     separator);
}

std::vector<Edge> parse_edges(std::string_view text, const std::string& name,
                              std::span<const std::string> names, std::int64_t nodes,
                              std::optional<char> separator) {
  const std::string rest = without_comments(text);
  if (!separator && is_spaced(rest)) separator = ' ';
  return edges_from(parse_table(rest, name, {.separator = separator, .header = false}), names,
                    nodes);
}

Table edges_table(const Dataset& graph) {
  Table table{.name = graph.name, .header = {"from", "to"}, .rows = {}};
  const std::vector<Edge> edges = edges_of(graph);
  const bool is_weighed =
      std::ranges::any_of(edges, [](const Edge& edge) { return edge.weight != 1.0; });
  if (is_weighed) table.header.emplace_back("weight");
  const auto called = [&](std::int64_t node) {
    return graph.row_names.empty() ? fmt::format("{}", node) : graph.row_name(node);
  };
  for (const Edge& edge : edges) {
    table.rows.add_field(called(edge.from));
    table.rows.add_field(called(edge.to));
    if (is_weighed) table.rows.add_field(fmt::format("{}", edge.weight));
    table.rows.end_row();
  }
  return table;
}

}  // namespace lattice
