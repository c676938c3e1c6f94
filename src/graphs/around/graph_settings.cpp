#include "graphs/around/graph_settings.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <nlohmann/json.hpp>

#include "graphs/around/model_graph.hpp"
#include "lattice/graphs/around/edges.hpp"
#include "lattice/graphs/graph.hpp"
#include "lattice/text/error.hpp"
#include "lessons/setting_kinds.hpp"

namespace lattice {
namespace {

using namespace settings;

/// The rows of a table as the nodes of a graph.
TableReading read_graph(const Lesson& lesson, const Table& table, const ColumnChoice& choice) {
  const GraphSettings& graph = lesson.own.of<GraphSettings>();
  ColumnChoice columns = choice;
  columns.are_connected = true;
  if (graph.names != "numbers")
    columns.names = graph.names.empty() ? table.header.front() : graph.names;
  TableReading reading = dataset_from(table, columns);
  // Names are looked at before edges are told by them.
  reading.data = graph_of(reading.data, {});
  const std::vector<Edge> edges = read_edges(graph.edges, reading.data.row_names,
                                             reading.data.rows(), lesson.data.csv.separator);
  reading.data = graph_of(reading.data, edges, {.directed = graph.directed});
  const std::int64_t loops =
      std::ranges::count_if(edges, [](const Edge& edge) { return edge.from == edge.to; });
  const std::int64_t again = std::ssize(edges) - loops - std::ssize(edges_of(reading.data));
  if (loops > 0) {
    reading.told = fmt::format("{}: {} of a node to itself left out (self-loops are added anyway)",
                               graph.edges, counted(loops, Role::none, "edge", "edges"));
  }
  if (again > 0) {
    reading.told +=
        fmt::format("{}{} listed again, and counted once", loops > 0 ? "; " : graph.edges + ": ",
                    counted(again, Role::none, "edge", "edges"));
  }
  if (const auto unlabelled = std::ssize(reading.data.unlabelled); unlabelled > 0) {
    reading.told += fmt::format("{}{} without {}: in the graph, but in no loss and no figure",
                                reading.told.empty() ? "" : "; ",
                                counted(unlabelled, Role::node, "node", "nodes"),
                                fmt::join(reading.data.all_target_names(), ", "));
  }
  return reading;
}

/// Refuses what is said of a graph where there is none.
void check_graph(const Lesson& lesson) {
  const GraphSettings& graph = lesson.own.of<GraphSettings>();
  if (!graph.edges.empty() && lesson.data.files.empty()) {
    throw SettingError({.what = "--edges needs a file of nodes",
                        .expected = "--file nodes.csv with it",
                        .found = "none"});
  }
  const bool is_told = graph.directed || !graph.names.empty();
  if (!is_told || !graph.edges.empty()) return;
  throw SettingError({.what = "--directed and --names need a graph",
                      .expected = "--edges edges.csv with them",
                      .found = "none"});
}

}  // namespace

LessonSubject graphs_in_lessons() {
  return {
      .name = "graphs",
      .settings =
          {path_setting(
               "data", "edges",
               [](auto& l) -> auto& { return l.own.template of<GraphSettings>().edges; }, "PATH",
               "The edges of a graph, whose nodes are the rows of the file: two columns of nodes, "
               "and "
               "an optional weight. A node without a target counts in no loss and no figure"),
           yes_or_no_setting(
               "data", "directed",
               [](auto& l) -> auto& { return l.own.template of<GraphSettings>().directed; },
               "An edge leads from its first node to its second alone"),
           text_setting(
               "data", "names",
               [](auto& l) -> auto& { return l.own.template of<GraphSettings>().names; }, "COLUMN",
               "The column of node names (default: the first); numbers: edges use row numbers, "
               "from "
               "0")},
      .check = check_graph,
      .takes_table =
          [](const Lesson& lesson) { return !lesson.own.of<GraphSettings>().edges.empty(); },
      .read_table = read_graph,
      .model_key = "graph",
      .rows_to_json = model_files::graph_json,
      .rows_from_json = model_files::graph_in};
}

}  // namespace lattice
