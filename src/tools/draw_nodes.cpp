#include <fmt/format.h>
#include <fmt/ranges.h>

#include "lattice/data/graph.hpp"
#include "lattice/show/charts.hpp"
#include "lattice/text/error.hpp"
#include "text/counted.hpp"
#include "tools/drawing.hpp"
#include "tools/nodes.hpp"

namespace lattice::tools {
namespace {

/// The part whose numbers are drawn: the one that is asked for, or the last that gives two.
std::string embedding_part(const DrawAsked& asked, const Network& network) {
  if (!asked.weight.empty()) return asked.weight;
  if (std::string part = part_of_two(network); !part.empty()) return part;
  std::vector<std::string> all;
  for (const Plan::Row& row : network.plan().rows)
    all.push_back(row.name);
  throw SettingError({.what = "no part gives two numbers for a node",
                      .expected = fmt::format("--of one of {}, with --units for two of its numbers",
                                              fmt::join(all, ", ")),
                      .found = network.blueprint(),
                      .remedy = "or a part of two: …, dense 2 without bias, tanh, dense 4"});
}

/// What a picture is called: shortly where it moves, since it is small then.
std::string title_of(const Learnt& learnt, bool as_frames) {
  const std::string& told = learnt.prepared.lesson.title;
  if (!told.empty() || !as_frames) return learnt.prepared.title();
  return learnt.prepared.data().name;
}

/// Nodes as they are at the end, or before and after, or at every moment where the picture moves.
Chart nodes_of(const DrawAsked& asked, const Learnt& learnt, const Dataset& graph,
               const NodesAsked& nodes, bool also_before, NodesSetting setting) {
  const auto moment = [&](const std::string& when, const Network& network) {
    return nodes_at(when, learnt.prepared, network, graph, nodes);
  };
  std::vector<NodesMoment> moments;
  setting.as_frames = asked.out.ends_with(".gif");
  if (setting.as_frames) {
    each_frame(learnt, asked.frames, [&](const std::string& when, const Network& network) {
      moments.push_back(moment(when, network));
    });
  } else {
    if (also_before) moments.push_back(moment("before training", learnt.prepared.network));
    moments.push_back(moment("after " + counted(learnt.run.last_epoch(), "epoch"), learnt.network));
  }
  return nodes_chart(title_of(learnt, setting.as_frames), graph, moments, setting);
}

}  // namespace

Chart draw_nodes(const DrawAsked& asked) {
  const Learnt learnt = learnt_of(asked.options.subject, asked.options);
  const Dataset graph = graph_of_lesson(learnt.prepared);
  return nodes_of(asked, learnt, graph, {.places = laid_out(*adjacency_of(graph))}, false, {});
}

Chart draw_embedding(const DrawAsked& asked) {
  const Learnt learnt = learnt_of(asked.options.subject, asked.options);
  const Dataset graph = graph_of_lesson(learnt.prepared);
  NodesAsked nodes{.part = embedding_part(asked, learnt.network)};
  if (!asked.units.empty()) nodes.units = asked.units;
  return nodes_of(asked, learnt, graph, nodes, true,
                  {.across_name = fmt::format("{}, unit {}", nodes.part, nodes.units[0]),
                   .up_name = fmt::format("{}, unit {}", nodes.part, nodes.units[1])});
}

}  // namespace lattice::tools
