#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <memory>
#include <nlohmann/json.hpp>

#include "files/file.hpp"
#include "graphs/around/graph_settings.hpp"
#include "graphs/around/nodes.hpp"
#include "graphs/around/page_files.hpp"
#include "lattice/data/summary.hpp"
#include "lattice/files/csv.hpp"
#include "lattice/graphs/adjacency.hpp"
#include "lattice/graphs/around/charts.hpp"
#include "lattice/graphs/around/edges.hpp"
#include "lattice/graphs/around/subject.hpp"
#include "lattice/graphs/graph.hpp"
#include "lattice/graphs/subject.hpp"
#include "lattice/show/shown_subject.hpp"
#include "lattice/tensor/sparse.hpp"
#include "lattice/text/error.hpp"
#include "show/text_table.hpp"
#include "text/counted.hpp"

/// What is shown of graphs.
namespace lattice {
namespace {

/// The label of a node; nothing where it has none.
std::string truth_in_words(const Dataset& graph, std::int64_t node, const TerminalStyle& style) {
  if (!graph.has_truth(node)) return "";
  if (!graph.has_classes()) return format_number(graph.targets.at({node, 0}), style.digits);
  return graph.class_name(static_cast<std::int64_t>(graph.classes.at_offset(node)));
}

/// How many labels are known, and how many nodes are unlabelled.
std::string labels_in_words(const Dataset& graph) {
  const auto unlabelled = std::ssize(graph.unlabelled);
  const std::int64_t labels = graph.rows() - unlabelled;
  std::string text = graph.known_count() == labels
                         ? std::string("all labels are known")
                         : fmt::format("{} of {} labels are known", graph.known_count(), labels);
  if (unlabelled > 0)
    text += fmt::format("; {} unlabelled", counted(unlabelled, Role::node, "node", "nodes"));
  return text;
}

/// The first nodes: what they are, and who they are joined with.
std::string first_nodes(const Dataset& graph, const TerminalStyle& style) {
  TextTable table({{"node", TextTable::Set::left},
                   {graph.target_name(), TextTable::Set::left},
                   {"known", TextTable::Set::left},
                   {"takes from", TextTable::Set::left}});
  const std::int64_t shown = std::min<std::int64_t>(graph.rows(), 8);
  for (std::int64_t node = 0; node < shown; ++node) {
    std::vector<std::string> others;
    for (const std::int64_t other : stored_along(*adjacency_of(graph), 1, node))
      others.push_back(graph.row_names.empty() ? fmt::format("{}", other) : graph.row_name(other));
    constexpr std::size_t most_letters = 60;
    table.add({graph.row_name(node), truth_in_words(graph, node, style),
               graph.is_known(node) ? "yes" : "",
               others.empty() ? "nobody"
                              : cut_to(fmt::format("{}", fmt::join(others, ", ")), most_letters)});
  }
  return table.text(style);
}

/// How a graph is connected, in a few lines.
std::string facts_in_words(const Dataset& graph, const GraphFacts& facts) {
  const Tensor& adjacency = *adjacency_of(graph);
  std::int64_t least = facts.nodes;
  std::int64_t most = 0;
  for (std::int64_t node = 0; node < facts.nodes; ++node) {
    const auto degree = std::ssize(stored_along(adjacency, 1, node));
    least = std::min(least, degree);
    most = std::max(most, degree);
  }
  const double mean =
      static_cast<double>(stored_count(adjacency)) / static_cast<double>(facts.nodes);
  return fmt::format("{} with {}{}, {} to {} edges per node, mean {}; {}\n{}\n",
                     counted(facts.nodes, Role::node, "node", "nodes"),
                     counted(facts.edges, Role::none, "edge", "edges"),
                     facts.directed ? ", each one way" : "", least, most, format_number(mean, 3),
                     facts.components == 1 ? std::string("connected")
                                           : fmt::format("{} components", facts.components),
                     labels_in_words(graph));
}

DataView view_of_graph(const Dataset& graph, const TerminalStyle& style) {
  DataView view{.about = facts_in_words(graph, facts_of(graph)),
                .lists_features = !graph.has_own_features(),
                .heading = "first nodes",
                .rows = first_nodes(graph, style)};
  view.about += view.lists_features ? counted(graph.feature_count(), "feature") + "\n"
                                    : "each node is its own feature\n";
  return view;
}

Json json_of_graph(const Dataset& graph) {
  const GraphFacts facts = facts_of(graph);
  return {{"nodes", facts.nodes},
          {"edges", facts.edges},
          {"directed", facts.directed},
          {"components", facts.components},
          {"alone", facts.alone.size()},
          {"known", graph.known_count()},
          {"unlabelled", graph.unlabelled.size()}};
}

/// Where the nodes of a graph lie, from 0 to 1 across and down, for a graph that can be looked at;
/// null for any other, and where there is no program that lays it out.
Json graph_on_page(const WorkedExample& example) {
  constexpr std::int64_t most_nodes = 200;
  const Worksheet& sheet = example.steps.front().work.sheet();
  const std::optional<Line> adjacency = sheet.find(adjacency_name);
  if (!adjacency || adjacency->shape().role(0) != Role::node || adjacency->shape()[0] > most_nodes)
    return {};
  Tensor places;
  try {
    places = laid_out(adjacency->value());
  } catch (const ProgramError&) {
    return {};
  }
  std::array<double, 2> low = {1e300, 1e300};
  std::array<double, 2> high = {-1e300, -1e300};
  for (std::int64_t at = 0; at < places.count(); ++at) {
    const auto axis = static_cast<std::size_t>(at % 2);
    low.at(axis) = std::min(low.at(axis), places.at_offset(at));
    high.at(axis) = std::max(high.at(axis), places.at_offset(at));
  }
  Json list = Json::array();
  for (std::int64_t node = 0; node < places.shape()[0]; ++node) {
    const auto share = [&](std::size_t axis) {
      const double number = places.at({node, static_cast<std::int64_t>(axis)});
      const double width = high.at(axis) - low.at(axis);
      return width > 0.0 ? std::round(1e4 * (number - low.at(axis)) / width) / 1e4 : 0.5;
    };
    list.push_back({share(0), share(1)});
  }
  return {{"adjacency", adjacency_name},
          {"shares", shares_name},
          {"places", std::move(list)},
          {"unlabelled", example.steps.front().work.batch().unlabelled}};
}

/// Whether a graph is small enough to be sent and drawn again and again.
bool can_be_drawn(const Dataset& data) {
  constexpr std::int64_t most_nodes = 1000;
  constexpr std::int64_t most_stored = 20'000;
  const Tensor* const adjacency = adjacency_of(data);
  return adjacency != nullptr && data.rows() <= most_nodes &&
         stored_count(*adjacency) <= most_stored;
}

Json watched_graph(const Dataset& graph) {
  Json edges = Json::array();
  for (const Edge& edge : edges_of(graph))
    edges.push_back({edge.from, edge.to});
  return {{"edges", std::move(edges)},
          {"known", graph.known},
          {"names", graph.row_names},
          {"unlabelled", graph.unlabelled},
          {"truth", graph.has_classes() ? to_json(graph.classes) : Json()}};
}

Json nodes_json(const NodesMoment& moment) {
  Json json = {{"title", moment.title}, {"places", to_json(moment.places)}};
  if (!moment.answers.empty()) json["answers"] = to_json(moment.answers);
  return json;
}

/// The graph of a run that is watched.
class WatchedGraph final : public WatchedSubject {
 public:
  explicit WatchedGraph(const Prepared& prepared)
      : prepared_(prepared), graph_(graph_of_lesson(prepared)) {
    nodes_.layer = layer_of_two(prepared.network);
    if (nodes_.layer.empty()) nodes_.places = laid_out(*adjacency_of(graph_));
  }

  [[nodiscard]] std::string_view key() const override { return "graph"; }
  [[nodiscard]] Json lesson() const override { return watched_graph(graph_); }
  [[nodiscard]] Json moment(const Network& network, const RowSet&) const override {
    const std::string title = nodes_.layer.empty() ? "The graph" : nodes_.layer;
    return nodes_json(nodes_at(title, prepared_, network, graph_, nodes_));
  }

 private:
  const Prepared& prepared_;
  Dataset graph_;
  NodesAsked nodes_;
};

Questions nodes_asked(const ModelFile& file, const std::vector<std::string>& names) {
  Questions questions;
  for (const std::string& name : names)
    questions.rows.push_back(node_called(*file.model.rows, name));
  return questions;
}

}  // namespace

bool use_graphs_around() {
  static const bool is_known = [] {
    use_graphs();
    know(graphs_in_lessons());
    know(ShownSubject{
        .name = "graph",
        .data_view = view_of_graph,
        .data_json = json_of_graph,
        .page_json = graph_on_page,
        .page = page_files::graphs.page,
        .watched = [](const Prepared& prepared) -> std::unique_ptr<WatchedSubject> {
          if (!can_be_drawn(prepared.data())) return nullptr;
          return std::make_unique<WatchedGraph>(prepared);
        },
        .watch = page_files::graphs.watch,
        .words = {{"node", "node {number}"},
                  {"node_and_neighbours", "{node} and who it takes from"},
                  {"ringed_in_loss", "ringed: in the loss"},
                  {"hollow", "hollow: unlabelled"},
                  {"not_joined", "{node} is not joined with {other}."},
                  {"takes_from", "{node} takes from {other}."},
                  {"nodes_at", "{title}: epoch {epoch}"},
                  {"nodes_right_at", "{title}: epoch {epoch}, {right} of {count} others right"},
                  {"marks", "ringed: known; inside: another answer"},
                  {"marks_and_hollow",
                   "ringed: known; inside: another answer; hollow: unlabelled"}},
        .terms =
            {{"node", "One thing of a graph, such as a studio. Each is a row of the data.",
              "with loops, sum"},
             {"edge", "A connection between two nodes.", "with loops"},
             {"adjacency matrix",
              "A table with a row and a column for each node: not 0 where an edge joins the two.",
              "with loops, scale both"},
             {"self-loop",
              "An edge from a node to itself, so that it also takes from its own features.",
              "with loops"},
             {"degree", "The number of edges of a node, with its self-loop.", "sum, inverse root"},
             {"normalised adjacency",
              "How much each node takes from each neighbour: each edge is divided by the root of "
              "both degrees, so that nodes with many neighbours do not drown out the others.",
              "scale both, inverse root"},
             {"sparse matrix",
              "A matrix that is mostly 0: only its other numbers are stored. A dot stands for "
              "those that are not.",
              "with loops, scale both"}},
        .charts = graph_charts(),
        .writers = {{.option = "--csv-edges",
                     .type = "PATH",
                     .sentence = "Write the edges of a graph to a CSV file",
                     .write =
                         [](const Dataset& data, const std::filesystem::path& path) {
                           write_file(path, to_csv(edges_table(data)));
                         }}},
        .question =
            QuestionKind{.option = "--node",
                         .type = "NAME",
                         .sentence = "A node of the model's graph, by name; may be repeated",
                         .thing = "nodes",
                         .example = "--node",
                         .is_worked = true,
                         .fits =
                             [](const Model& model) {
                               return model.rows && adjacency_of(*model.rows) != nullptr;
                             },
                         .read = nodes_asked}});
    return true;
  }();
  return is_known;
}

}  // namespace lattice
