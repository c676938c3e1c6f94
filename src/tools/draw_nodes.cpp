#include <fmt/format.h>
#include <fmt/ranges.h>

#include <functional>
#include <utility>

#include "lattice/data/graph.hpp"
#include "lattice/judging/answers.hpp"
#include "lattice/show/charts.hpp"
#include "lattice/text/error.hpp"
#include "tools/drawing.hpp"

namespace lattice::tools {
namespace {

/// The graph of a lesson, with what is learnt from as what is known.
Dataset graph_of_lesson(const Learnt& learnt) {
  Dataset graph = learnt.prepared.split.data();
  if (!graph.is_graph()) {
    throw SettingError({.what = fmt::format("{} is no graph", graph.name),
                        .expected = "a graph: studios, or --file nodes.csv --edges edges.csv",
                        .found = "rows that have nothing to do with each other"});
  }
  graph.known = learnt.prepared.split.train.rows();
  return graph;
}

/// All nodes, passed through a network.
struct Pass {
  Worksheet sheet;
  Tensor answers = {};
};

Pass pass_of(const Learnt& learnt, const Network& network, const Dataset& graph) {
  Pass pass;
  const Batch all = RowSet(graph).all();
  const Line scores = write_scores(pass.sheet, network, learnt.prepared.loss,
                                   write_given(pass.sheet, all).x);
  if (graph.has_classes())
    pass.answers = answers_of(scores.value(), outputs_of(network, learnt.prepared.loss));
  return pass;
}

/// The parts of a network that give so many numbers or more, by name.
std::vector<std::string> parts_of_two(const Network& network) {
  std::vector<std::string> names;
  for (const Plan::Row& row : network.plan().rows) {
    if (row.outputs.rank() == 1 && row.outputs[0] == 2) names.push_back(row.name);
  }
  return names;
}

/// The part whose numbers are drawn: the one that is asked for, or the last that gives two.
std::string embedding_part(const DrawAsked& asked, const Network& network) {
  if (!asked.weight.empty()) return asked.weight;
  const std::vector<std::string> names = parts_of_two(network);
  if (!names.empty()) return names.back();
  std::vector<std::string> all;
  for (const Plan::Row& row : network.plan().rows)
    all.push_back(row.name);
  throw SettingError({.what = "no part gives two numbers for a node",
                      .expected = fmt::format("--of one of {}, with --units for two of its numbers",
                                              fmt::join(all, ", ")),
                      .found = network.blueprint(),
                      .remedy = "or a part of two: …, dense 2 without bias, tanh, dense 4"});
}

/// Two columns of what a part gives.
Tensor two_of(const Worksheet& sheet, const std::string& part, const std::vector<std::int64_t>& units) {
  const Tensor& all = sheet.line(part).value();
  if (all.shape().rank() != 2) {
    throw ShapeError({.what = fmt::format("{} gives no row of numbers for a node", part),
                      .expected = "[node × unit]",
                      .found = to_string(all.shape())});
  }
  Tensor two = zeros({all.shape()[0], 2});
  for (std::int64_t node = 0; node < all.shape()[0]; ++node) {
    for (std::int64_t at = 0; at < 2; ++at) {
      const std::int64_t unit = units[static_cast<std::size_t>(at)];
      if (unit >= all.shape()[1]) {
        throw IndexError({.what = fmt::format("{} has no unit {}", part, unit),
                          .expected = fmt::format("0 to {}", all.shape()[1] - 1),
                          .found = fmt::format("--units {}", fmt::join(units, ","))});
      }
      two.set({node, at}, all.at({node, unit}));
    }
  }
  return two;
}

/// What a picture is called: shortly where it moves, since it is small then.
std::string title_of(const Learnt& learnt, bool as_frames) {
  const std::string& told = learnt.prepared.lesson.title;
  if (!told.empty() || !as_frames) return learnt.prepared.title();
  return learnt.prepared.data().name;
}

}  // namespace

Chart draw_nodes(const DrawAsked& asked) {
  const Learnt learnt = learnt_of(asked.options.subject, asked.options);
  const Dataset graph = graph_of_lesson(learnt);
  const Tensor places = laid_out(*adjacency_of(graph));
  const auto moment = [&](const std::string& when, const Network& network) {
    return NodesMoment{when, places, pass_of(learnt, network, graph).answers};
  };
  std::vector<NodesMoment> moments;
  const bool as_frames = asked.out.ends_with(".gif");
  if (as_frames) {
    each_frame(learnt, asked.frames, [&](const std::string& when, const Network& network) {
      moments.push_back(moment(when, network));
    });
  } else {
    moments.push_back(
        moment(fmt::format("after {} epochs", learnt.run.last_epoch()), learnt.network));
  }
  return nodes_chart(title_of(learnt, as_frames), graph, moments, {.as_frames = as_frames});
}

Chart draw_embedding(const DrawAsked& asked) {
  const Learnt learnt = learnt_of(asked.options.subject, asked.options);
  const Dataset graph = graph_of_lesson(learnt);
  const std::string part = embedding_part(asked, learnt.network);
  const std::vector<std::int64_t> units =
      asked.units.empty() ? std::vector<std::int64_t>{0, 1} : asked.units;
  const auto moment = [&](const std::string& when, const Network& network) {
    const Pass pass = pass_of(learnt, network, graph);
    return NodesMoment{when, two_of(pass.sheet, part, units), pass.answers};
  };
  std::vector<NodesMoment> moments;
  const bool as_frames = asked.out.ends_with(".gif");
  if (as_frames) {
    each_frame(learnt, asked.frames, [&](const std::string& when, const Network& network) {
      moments.push_back(moment(when, network));
    });
  } else {
    moments = {moment("before training", learnt.prepared.network),
               moment(fmt::format("after {} epochs", learnt.run.last_epoch()), learnt.network)};
  }
  return nodes_chart(title_of(learnt, as_frames), graph, moments,
                     {.as_frames = as_frames,
                      .across_name = fmt::format("{}, unit {}", part, units[0]),
                      .up_name = fmt::format("{}, unit {}", part, units[1])});
}

}  // namespace lattice::tools
