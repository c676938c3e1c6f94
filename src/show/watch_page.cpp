#include "lattice/show/watch_page.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <nlohmann/json.hpp>

#include "lattice/files/json.hpp"
#include "show/page/files.hpp"
#include "show/page_words.hpp"
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

}  // namespace

Plane plane_of(const Dataset& raw) {
  return {stretch_of(raw.features, 0), stretch_of(raw.features, 1)};
}

std::string watch_page(const Watched& watched, const AxisNames& names,
                       std::span<const std::unique_ptr<WatchedSubject>> subjects) {
  Json json = {{"title", watched.title},         {"about", watched.about},
               {"epochs", watched.epochs},       {"features", names.features},
               {"classes", names.classes},       {"digits", usual_digits},
               {"colours", plot::series_texts()}};
  json["words"] = page_words();
  json["references"] = to_json(watched.references);
  if (watched.plane) json["plane"] = plane_json(*watched.plane);
  for (const std::unique_ptr<WatchedSubject>& subject : subjects) {
    if (Json own = subject->lesson(); !own.is_null()) json[subject->key()] = std::move(own);
  }
  std::vector<StyleAndScript> of_subjects;
  for (const ShownSubject& subject : shown_subjects())
    of_subjects.push_back(subject.watch);
  return page_files::filled_in(page_files::watch_html, {.title = watched.title,
                                                        .style = page_files::watch_css,
                                                        .data = json_text(json),
                                                        .script = page_files::watch_js,
                                                        .of_subjects = std::move(of_subjects)});
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

std::string moment_event(const WatchedMoment& moment, const Json& more) {
  Json json = {{"epoch", moment.epoch}, {"part", moment.part}};
  if (moment.confusion) json["confusion"] = to_json(*moment.confusion);
  if (moment.map && !moment.map->classes.empty()) json["regions"] = to_json(moment.map->classes);
  if (!moment.flow.empty()) json["flow"] = to_json(moment.flow);
  if (!more.is_null()) json.update(more);
  return event("moment", json);
}

std::string end_event(const RunRecord& run) {
  return event("end", {{"ending", word(run.ending)}, {"updates", run.updates}});
}

}  // namespace lattice
