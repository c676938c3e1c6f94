#include "lattice/show/data.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <numeric>

#include "lattice/data/graph.hpp"
#include "lattice/data/picture.hpp"
#include "lattice/data/summary.hpp"
#include "lattice/show/pictures.hpp"
#include "lattice/tensor/sparse.hpp"
#include "show/ink.hpp"
#include "show/rows_grid.hpp"
#include "show/text_table.hpp"

namespace lattice {
namespace {

std::string percent(std::int64_t part, std::int64_t whole) {
  return fmt::format("{:.1f} %", 100.0 * static_cast<double>(part) / static_cast<double>(whole));
}

std::string first_rows(const Dataset& data, const TerminalStyle& style) {
  Grid table{.corner = "row", .thing = "rows"};
  const AxisNames names = data.axis_names();
  const Tensor features = data.is_table() ? data.features.all() : Tensor();
  const RowsGrid rows(features, data.targets, data.classes, names,
                      find_side(data.side, counted_name));
  rows.add_headings(table);
  const std::int64_t shown = std::min<std::int64_t>(data.rows(), 5);
  for (std::int64_t row = 0; row < shown; ++row) {
    table.labels.push_back(fmt::format("{}", row));
    rows.add_cells(table.rows.emplace_back(), row);
  }
  return text(table, grid_style(style, false));
}

/// What is true of a node; nothing where nobody knows.
std::string truth_in_words(const Dataset& graph, std::int64_t node, const TerminalStyle& style) {
  if (!graph.has_truth(node)) return "";
  if (!graph.has_classes()) return format_number(graph.targets.at({node, 0}), style.digits);
  return graph.class_name(static_cast<std::int64_t>(graph.classes.at_offset(node)));
}

/// How many labels are known, and how many nodes have none.
std::string labels_in_words(const Dataset& graph) {
  const auto without = std::ssize(graph.without_truth);
  const std::int64_t labels = graph.rows() - without;
  std::string text = graph.known_count() == labels
                         ? std::string("all labels are known")
                         : fmt::format("{} of {} labels are known", graph.known_count(), labels);
  if (without > 0)
    text += fmt::format("; {} without one", counted(without, Role::node, "node", "nodes"));
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
    for (const std::int64_t other : kept_along(*adjacency_of(graph), 1, node))
      others.push_back(graph.row_names.empty() ? fmt::format("{}", other) : graph.row_name(other));
    constexpr std::size_t most_letters = 60;
    table.add({graph.row_name(node), truth_in_words(graph, node, style),
               graph.is_known(node) ? "yes" : "",
               others.empty() ? "nobody"
                              : cut_to(fmt::format("{}", fmt::join(others, ", ")), most_letters)});
  }
  return table.text(style);
}

/// How a graph hangs together, in a few lines.
std::string facts_in_words(const Dataset& graph, const GraphFacts& facts) {
  const Tensor& adjacency = *adjacency_of(graph);
  std::int64_t least = facts.nodes;
  std::int64_t most = 0;
  for (std::int64_t node = 0; node < facts.nodes; ++node) {
    const auto degree = std::ssize(kept_along(adjacency, 1, node));
    least = std::min(least, degree);
    most = std::max(most, degree);
  }
  const double mean = static_cast<double>(kept_count(adjacency)) / static_cast<double>(facts.nodes);
  return fmt::format("{} with {}{}, {} to {} at a node, {} in the mean; {}\n{}\n",
                     counted(facts.nodes, Role::node, "node", "nodes"),
                     counted(facts.edges, Role::none, "edge", "edges"),
                     facts.directed ? ", each one way" : "", least, most, format_number(mean, 3),
                     facts.pieces == 1
                         ? std::string("all hang together")
                         : fmt::format("{} pieces that do not hang together", facts.pieces),
                     labels_in_words(graph));
}

}  // namespace

std::string show_data(const Dataset& data, const TerminalStyle& style) {
  const DataSummary summary = summarise(data);
  const auto number = [&](double value) { return format_number(value, style.digits); };
  TextTable table({{"column", TextTable::Set::left},
                   {"role", TextTable::Set::left},
                   {"lowest"},
                   {"highest"},
                   {"mean"},
                   {"spread"}});
  const auto add = [&](const NumberSummary& column, const char* role) {
    table.add({column.name, role, number(column.low), number(column.high), number(column.mean),
               number(column.spread)});
  };
  const bool are_pictures = is_picture(data.example());
  for (const NumberSummary& feature : summary.features)
    add(feature, are_pictures ? "points" : "feature");
  for (const NumberSummary& target : summary.numbers)
    add(target, "to predict");
  if (summary.counted) add(*summary.counted, "how much rows count");
  const std::string of_each =
      are_pictures ? to_string(data.example())
                   : fmt::format("{} {}", summary.features.size(),
                                 summary.features.size() == 1 ? "feature" : "features");
  const std::string_view things = are_pictures ? (summary.rows == 1 ? "picture" : "pictures")
                                               : (summary.rows == 1 ? "row" : "rows");
  std::string text;
  if (summary.graph) {
    text = facts_in_words(data, *summary.graph);
    text += has_own_features(data) ? "each node is its own feature\n"
                                   : fmt::format("{}\n\n{}", of_each, table.text(style));
  } else {
    text =
        fmt::format("{} {}, {}{}\n\n", summary.rows, things, are_pictures ? "each " : "", of_each) +
        table.text(style);
  }
  if (!summary.class_names.empty()) {
    TextTable classes({{"class", TextTable::Set::left}, {"number"}, {"rows"}, {"share"}});
    const std::int64_t with_class =
        std::accumulate(summary.class_sizes.begin(), summary.class_sizes.end(), std::int64_t{0});
    for (std::size_t at = 0; at < summary.class_names.size(); ++at) {
      classes.add({summary.class_names[at], fmt::format("{}", at),
                   fmt::format("{}", summary.class_sizes[at]),
                   percent(summary.class_sizes[at], with_class)});
    }
    text +=
        "\n" +
        show_heading(summary.target.empty() ? "classes" : "classes of " + summary.target, style) +
        classes.text(style);
  }
  text += "\n";
  if (summary.graph) return text + show_heading("first nodes", style) + first_nodes(data, style);
  if (!are_pictures) return text + show_heading("first rows", style) + first_rows(data, style);
  std::vector<CaptionedPicture> pictures = samples_of(data, style.most_rows);
  pictures.insert(pictures.begin(), {.picture = mean_picture(data), .caption = "the mean"});
  return text + show_heading("the mean picture, and the first", style) +
         show_pictures(pictures, style, brightness_of(data.features));
}

}  // namespace lattice
