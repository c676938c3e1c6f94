#include "lattice/show/watch_page.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <nlohmann/json.hpp>

#include "lattice/data/graph.hpp"
#include "lattice/files/json.hpp"
#include "show/page/files.hpp"
#include "show/plot.hpp"

namespace lattice {
namespace {

/// More points than this are thinned out evenly: the page draws them again and again.
constexpr std::int64_t most_points = 1500;

std::string event(std::string_view name, const Json& json) {
  return fmt::format("event: {}\ndata: {}\n\n", name, json_text(json));
}

Json plane_json(const Dataset& raw) {
  const Plane plane = plane_of(raw);
  Json points = Json::array();
  const std::int64_t apart = std::max<std::int64_t>(1, raw.rows() / most_points);
  for (std::int64_t row = 0; row < raw.rows(); row += apart) {
    points.push_back({raw.features.at({row, 0}), raw.features.at({row, 1}),
                      raw.has_classes() ? raw.classes.at_offset(row) : 0.0});
  }
  return {{"low", {plane.across.low, plane.up.low}},
          {"high", {plane.across.high, plane.up.high}},
          {"points", std::move(points)}};
}

/// A picture point by point; a large one is made smaller, as it is sent again and again.
Json to_json(const CaptionedPicture& captioned, const Brightness& brightness) {
  constexpr std::int64_t most = 48;
  Picture picture = as_drawn(captioned.picture, brightness);
  if (const std::int64_t side = std::max(picture.rows, picture.columns); side > most) {
    const auto smaller = [&](std::int64_t extent) {
      return std::max<std::int64_t>(extent * most / side, 1);
    };
    picture =
        changed(picture, {.size = PictureSize{smaller(picture.rows), smaller(picture.columns)}});
  }
  return {{"caption", captioned.caption}, {"answer", captioned.answer},
          {"rows", picture.rows},         {"columns", picture.columns},
          {"channels", picture.channels}, {"points", picture.bytes}};
}

Json watched_graph(const Dataset& graph) {
  Json edges = Json::array();
  for (const Edge& edge : edges_of(graph))
    edges.push_back({edge.from, edge.to});
  return {{"edges", std::move(edges)},
          {"known", graph.known},
          {"names", graph.row_names},
          {"without_truth", graph.without_truth},
          {"truth", graph.has_classes() ? to_json(graph.classes) : Json()}};
}

Json nodes_json(const NodesMoment& moment) {
  Json json = {{"title", moment.title}, {"places", to_json(moment.places)}};
  if (!moment.answers.empty()) json["answers"] = to_json(moment.answers);
  return json;
}

}  // namespace

Plane plane_of(const Dataset& raw) {
  return {stretch_of(raw.features, 0), stretch_of(raw.features, 1)};
}

std::string watch_page(const Watched& watched, const AxisNames& names) {
  Json json = {{"title", watched.title},         {"about", watched.about},
               {"epochs", watched.epochs},       {"features", names.features},
               {"classes", names.classes},       {"digits", usual_digits},
               {"colours", plot::series_texts()}};
  json["references"] = to_json(watched.references);
  if (watched.plane) json["plane"] = plane_json(*watched.plane);
  if (watched.graph) json["graph"] = watched_graph(*watched.graph);
  return page_files::filled_in(page_files::watch_html, {.title = watched.title,
                                                        .style = page_files::watch_css,
                                                        .data = json_text(json),
                                                        .script = page_files::watch_js});
}

std::string start_event() {
  return event("start", Json::object());
}

std::string epoch_event(const EpochFigures& figures) {
  RunRecord run{.epochs = {figures}};
  return event("epoch", to_json(run)["epochs"][0]);
}

std::string step_event(const StepFigures& figures) {
  RunRecord run{.steps = {figures}};
  return event("step", to_json(run)["steps"][0]);
}

std::string moment_event(const WatchedMoment& moment) {
  Json json = {{"epoch", moment.epoch}, {"part", moment.part}};
  if (moment.confusion) json["confusion"] = to_json(*moment.confusion);
  if (moment.map && !moment.map->classes.empty()) json["regions"] = to_json(moment.map->classes);
  if (moment.nodes) json["nodes"] = nodes_json(*moment.nodes);
  if (!moment.depth.empty()) json["depth"] = to_json(moment.depth);
  if (moment.wrong) {
    Json wrong = Json::array();
    for (const CaptionedPicture& each : *moment.wrong)
      wrong.push_back(to_json(each, moment.brightness));
    json["wrong"] = std::move(wrong);
  }
  return event("moment", json);
}

std::string end_event(const RunRecord& run) {
  return event("end", {{"ending", word(run.ending)}, {"updates", run.updates}});
}

}  // namespace lattice
