#include <fmt/format.h>
#include <fmt/ranges.h>

#include "graphs/around/nodes.hpp"
#include "lattice/files/csv.hpp"
#include "lattice/graphs/graph.hpp"
#include "lattice/text/error.hpp"
#include "lattice/text/numbers.hpp"
#include "text/counted.hpp"

namespace lattice {
namespace {

/// The layer whose numbers are drawn: the one that is asked for, or the last that gives two.
std::string embedding_layer(const std::string& asked, const Network& network) {
  if (!asked.empty()) return asked;
  if (std::string layer = layer_of_two(network); !layer.empty()) return layer;
  std::vector<std::string> all;
  for (const Plan::Row& row : network.plan().rows)
    all.push_back(row.name);
  throw SettingError({.what = "no layer gives two numbers for a node",
                      .expected = fmt::format("--of one of {}, with --units for two of its numbers",
                                              fmt::join(all, ", ")),
                      .found = network.blueprint(),
                      .remedy = "or a layer of two: …, dense 2 without bias, tanh, dense 4"});
}

/// What a picture is called: shortly where it moves, since it is small then.
std::string title_of(const TrainedLesson& trained, bool as_frames) {
  const std::string& told = trained.prepared.lesson.title;
  if (!told.empty() || !as_frames) return trained.prepared.title();
  return trained.prepared.data().name;
}

/// Nodes as they are at the end, or before and after, or at every moment where the picture moves.
Chart nodes_of(const SubjectChart::Request& asked, const TrainedLesson& trained,
               const Dataset& graph, const NodesAsked& nodes, bool also_before,
               NodesSetting setting) {
  const auto moment = [&](const std::string& when, const Network& network) {
    return nodes_at(when, trained.prepared, network, graph, nodes);
  };
  std::vector<NodesMoment> moments;
  setting.as_frames = asked.out.ends_with(".gif");
  if (setting.as_frames) {
    each_frame(trained, asked.frames, [&](const std::string& when, const Network& network) {
      moments.push_back(moment(when, network));
    });
  } else {
    if (also_before) moments.push_back(moment("before training", trained.prepared.network));
    moments.push_back(
        moment("after " + counted(trained.run.last_epoch(), "epoch"), trained.network));
  }
  return nodes_chart(title_of(trained, setting.as_frames), graph, moments, setting);
}

Chart draw_nodes(const SubjectChart::Request& asked) {
  const TrainedLesson trained = asked.trained();
  const Dataset graph = graph_of_lesson(trained.prepared);
  return nodes_of(asked, trained, graph, {.places = laid_out(*adjacency_of(graph))}, false, {});
}

/// Two numbers of a layer: `0,1`.
std::vector<std::int64_t> units_in(const std::string& text) {
  std::vector<std::int64_t> units;
  for (const std::string& each : parse_csv_record(text)) {
    const std::optional<std::int64_t> unit = parse_whole_number(each);
    if (unit && *unit >= 0) units.push_back(*unit);
  }
  if (units.size() == 2 && parse_csv_record(text).size() == 2) return units;
  throw SettingError({.what = "a picture of nodes needs two units",
                      .expected = "--units and two numbers, such as 0,1",
                      .found = text});
}

Chart draw_embedding(const SubjectChart::Request& asked) {
  const auto option = [&](std::string_view name) {
    const auto found = asked.options.find(name);
    return found == asked.options.end() ? std::string() : found->second;
  };
  NodesAsked nodes;
  if (const std::string units = option("--units"); !units.empty()) nodes.units = units_in(units);
  const TrainedLesson trained = asked.trained();
  const Dataset graph = graph_of_lesson(trained.prepared);
  nodes.layer = embedding_layer(option("--of"), trained.network);
  return nodes_of(asked, trained, graph, nodes, true,
                  {.across_name = fmt::format("{}, unit {}", nodes.layer, nodes.units[0]),
                   .up_name = fmt::format("{}, unit {}", nodes.layer, nodes.units[1])});
}

}  // namespace

std::vector<SubjectChart> graph_charts() {
  return {{.name = "nodes",
           .sentence = "A graph laid out: the labels of its nodes and the answers; .gif moves",
           .moves = true,
           .draw = draw_nodes},
          {.name = "embedding",
           .sentence = "Nodes of a graph by two numbers of a layer, before and after; .gif moves",
           .options = {{"--of", "LAYER", "Which layer (default: the last that gives two numbers)"},
                       {"--units", "A,B", "Which two of its numbers (default 0,1)"}},
           .moves = true,
           .draw = draw_embedding}};
}

}  // namespace lattice
