#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <filesystem>
#include <functional>
#include <limits>
#include <memory>
#include <utility>

#include "lattice/files/csv.hpp"
#include "lattice/learning/look_through.hpp"
#include "lattice/network/blueprint.hpp"
#include "lattice/show/charts.hpp"
#include "lattice/show/shown_subject.hpp"
#include "lattice/text/error.hpp"
#include "lattice/text/nearest.hpp"
#include "lattice/worksheet/operations/activations.hpp"
#include "text/counted.hpp"
#include "tools/commands.hpp"
#include "tools/draw_graph.hpp"
#include "tools/draw_network.hpp"
#include "tools/drawing.hpp"
#include "tools/interrupt.hpp"
#include "tools/options.hpp"
#include "tools/run_lesson.hpp"

namespace lattice::tools {
namespace {

/// The network of a lesson before it has learnt, or that of a model.
NamedPlan planned_by(const std::string& subject, const LessonOptions& options) {
  if (is_model_file(subject)) {
    const ModelFile file = load_model(subject);
    return {options.names("title") ? options.lesson_on({}).title : subject,
            file.model.network.plan()};
  }
  const Lesson lesson = options.lesson_on(lesson_named(subject));
  if (const std::optional<Plan> plan = plan_without_data(lesson))
    return {lesson.title.empty() ? lesson.network.blueprint : lesson.title, *plan};
  const Prepared prepared = prepare(lesson);
  const std::string& title = prepared.lesson.title;
  return {title.empty() ? prepared.data().name : title, prepared.network.plan()};
}

Chart draw_blocks(const DrawAsked& asked) {
  std::vector<NamedPlan> networks = {planned_by(asked.options.subject, asked.options)};
  for (const std::string& subject : asked.more)
    networks.push_back(planned_by(subject, asked.options));
  return blocks_chart(networks);
}

/// What passes through networks while they learn; a model tells what it was saved with, or how it
/// is.
Chart draw_flow(const DrawAsked& asked) {
  std::vector<std::string> subjects = {asked.options.subject};
  subjects.insert(subjects.end(), asked.more.begin(), asked.more.end());
  std::vector<NamedFlow> networks;
  for (const std::string& subject : subjects) {
    const TrainedLesson learnt = learnt_with_flow(subject, asked.options);
    const std::string& title = learnt.prepared.lesson.title;
    std::vector<FlowMoment> moments = learnt.run.flow;
    if (moments.empty()) {
      moments.push_back({.epoch = learnt.run.last_epoch(),
                         .layers = look_through(learnt.network, learnt.prepared.loss,
                                                learnt.prepared.split.train)});
    }
    networks.emplace_back(title.empty() ? learnt.name : title, std::move(moments));
  }
  return layer_flow_chart(networks);
}

Chart draw_curves(const DrawAsked& asked) {
  std::vector<NamedRun> runs;
  std::vector<std::string> subjects = {asked.options.subject};
  subjects.insert(subjects.end(), asked.more.begin(), asked.more.end());
  std::string title;
  std::vector<Reference> references;
  for (const std::string& subject : subjects) {
    TrainedLesson learnt = learnt_of(subject, asked.options);
    if (runs.empty()) {
      const std::string& told = learnt.prepared.lesson.title;
      title = subjects.size() > 1 && told.empty() ? "several runs" : learnt.prepared.title();
    }
    if (runs.empty()) references = learnt.prepared.lesson.references;
    runs.emplace_back(learnt.name, std::move(learnt.run));
  }
  return curves_chart(title, runs, references,
                      {.across = asked.across, .loss = asked.up, .accuracy = asked.up_accuracy});
}

Chart draw_regions(const DrawAsked& asked) {
  const bool as_frames = asked.out.ends_with(".gif");
  TrainedLesson learnt = learnt_of(asked.options.subject, asked.options);
  const Dataset data = raw_part(learnt, asked);
  // Refuses other sets than those of two features, before anything is asked of them.
  if (data.feature_count() != 2) return regions_chart("", data, {MapMoment{}});
  const Stretch across = asked.across.value_or(stretch_of(data.features, 0));
  const Stretch up = asked.up.value_or(stretch_of(data.features, 1));
  const auto moment = [&](std::string title, const Network& network, std::int64_t count) {
    const Model model = learnt.model_at(network);
    return MapMoment{std::move(title), decision_map(model, across, up, count),
                     ask(model, data.features).classes};
  };
  const std::string title = learnt.prepared.title();
  if (!as_frames) {
    return regions_chart(
        title, data,
        {moment("before training", learnt.prepared.network, 160),
         moment("after " + counted(learnt.run.last_epoch(), "epoch"), learnt.network, 160)});
  }
  std::vector<MapMoment> moments;
  each_frame(learnt, asked.frames, [&](const std::string& when, const Network& network) {
    moments.push_back(moment(when, network, 80));
  });
  return regions_chart(title, data, moments, true);
}

Chart draw_line(const DrawAsked& asked) {
  const bool as_frames = asked.out.ends_with(".gif");
  const TrainedLesson learnt = learnt_of(asked.options.subject, asked.options);
  const Dataset data = raw_part(learnt, asked);
  const Stretch usual =
      data.feature_count() == 1 ? stretch_of(data.features, 0) : Stretch{.low = 0.0, .high = 1.0};
  const Stretch across = asked.across.value_or(usual);
  std::vector<LineMoment> moments;
  constexpr std::int64_t on_the_way = 8;
  each_frame(learnt, as_frames ? asked.frames : on_the_way,
             [&](const std::string& when, const Network& network) {
               moments.push_back({when, answer_curve(learnt.model_at(network), across)});
             });
  if (!as_frames) {
    moments.back() = {"after " + counted(learnt.run.last_epoch(), "epoch"),
                      answer_curve(learnt.model_at(learnt.network), across)};
  }
  return line_chart(learnt.prepared.title(), data, moments, as_frames, asked.up);
}

Chart draw_confusion(const DrawAsked& asked) {
  const TrainedLesson learnt = learnt_on(asked);
  const Split& split = learnt.prepared.split;
  const DataPart part = asked.part.empty() ? last_part(split) : part_called(split, asked.part);
  const RowSet& rows = split[part];
  const Assessment assessment = assess(learnt.network, rows, {.loss = learnt.prepared.loss});
  if (!assessment.classes) {
    throw SettingError(
        {.what = "a confusion matrix needs classes",
         .expected = "a lesson with classes",
         .found = fmt::format("{}, which has a numeric target", learnt.prepared.title())});
  }
  return confusion_chart(fmt::format("{}: {}", learnt.prepared.title(), learnt.name_of_part(part)),
                         *assessment.classes);
}

std::vector<std::pair<std::string, Curve>> curves_of(const DrawAsked& asked) {
  const auto [low, high] = asked.across.value_or(Stretch{.low = -4.0, .high = 4.0});
  std::vector<std::pair<std::string, Curve>> curves;
  for (const std::string& text : asked.functions) {
    const std::vector<Layer> layers = parse_blueprint(text);
    if (!plan(Shape{1}, layers).rows.front().needs.empty()) {
      throw SettingError({.what = fmt::format("'{}' is no function of one number", text),
                          .expected = "an activation: tanh, relu, sigmoid",
                          .found = "a layer with weights"});
    }
    // A layer without weights asks neither of these for anything.
    Worksheet unused;
    const Weights none;
    Pass pass(unused, none, Phase::in_use());
    curves.emplace_back(text, curve([&](const Line& x) { return layers.front().forward(x, pass); },
                                    low, high, 401));
  }
  return curves;
}

Chart draw_function(const DrawAsked& asked) {
  return function_chart(curves_of(asked), asked.title, asked.up);
}

/// The numbers of the curves.
Json function_json(const DrawAsked& asked) {
  Json json = Json::array();
  for (const auto& [name, curve] : curves_of(asked)) {
    json.push_back({{"name", name},
                    {"x", to_json(curve.x)},
                    {"value", to_json(curve.value)},
                    {"derivative", to_json(curve.slope)}});
  }
  return json;
}

/// The two weights that are watched: those that are named, or the first and the last of all.
std::pair<Place, Place> watched(const DrawAsked& asked, const Network& network) {
  if (asked.places.size() == 2) return {parse_place(asked.places[0]), parse_place(asked.places[1])};
  const Weights& weights = network.weights();
  const auto first = weights.begin();
  if (first->value.count() > 1) {
    return {{first->name, first->value.shape().index(0)},
            {first->name, first->value.shape().index(1)}};
  }
  const auto second = std::next(first);
  return {{first->name, first->value.shape().index(0)},
          {second->name, second->value.shape().index(0)}};
}

Chart draw_descent(const DrawAsked& asked) {
  const Prepared prepared = prepare(asked.options.lesson());
  const auto [across, up] = watched(asked, prepared.network);
  const std::int64_t rows = prepared.split.train.count();
  std::vector<DescentPath> paths;
  for (const std::int64_t batch : {rows, prepared.training.batch, std::int64_t{1}}) {
    TrainSettings settings = prepared.training;
    settings.batch = batch;
    settings.should_stop = Interrupt::asked;
    const std::string name = batch == rows ? "the whole set at once"
                             : batch == 1  ? "one example at a time"
                                           : fmt::format("minibatches of {}", batch);
    paths.push_back(descent_path(name, prepared.network, prepared.split, settings, across, up));
  }
  const auto stretch = [&](auto read) {
    double low = std::numeric_limits<double>::infinity();
    double high = -low;
    for (const DescentPath& path : paths) {
      for (const double number : read(path)) {
        if (!std::isfinite(number)) continue;
        low = std::min(low, number);
        high = std::max(high, number);
      }
    }
    const double spare = std::max((high - low) * 0.2, 1e-6);
    return Stretch{low - spare, high + spare};
  };
  const LossSurface surface = loss_surface(
      paths.front().network, prepared.loss, prepared.split.train, across, up,
      asked.across.value_or(stretch(
          [](const DescentPath& path) -> const std::vector<double>& { return path.across; })),
      asked.up.value_or(
          stretch([](const DescentPath& path) -> const std::vector<double>& { return path.up; })));
  const bool is_whole = prepared.network.plan().weights() == 2;
  return descent_chart(fmt::format("{}: down the loss of the train part{}", prepared.title(),
                                   is_whole ? "" : " (other weights as they end up)"),
                       surface, paths, across.line + to_string(across.at),
                       up.line + to_string(up.at));
}

void declare_part(Verb& verb, DrawAsked& asked) {
  verb.text("--part", asked.part, "Rows of which part: train (the default), validation, test",
            "PART");
}

/// Where figures are told, those of rows that were not learnt from say how good a network is.
void declare_judged_part(Verb& verb, DrawAsked& asked) {
  verb.text("--part", asked.part,
            "Rows of which part: train, validation, test (default: the last that has rows)",
            "PART");
}

void declare_frames(Verb& verb, DrawAsked& asked) {
  verb.read(
      "--frames",
      [&asked](const std::string& text) { asked.frames = whole_number("--frames", text, 2, 1000); },
      "Frames of a .gif (default 60)", "N");
}

void declare_stretch(Verb& verb, const char* name, std::optional<Stretch>& place,
                     const std::string& sentence) {
  verb.read(
      name, [name, &place](const std::string& text) { place = stretch_in(name, text); }, sentence,
      "LOW,HIGH");
}

/// The stretches of the axes that are shown, by what they are.
void declare_axes(Verb& verb, DrawAsked& asked, const std::string& across, const std::string& up) {
  declare_stretch(verb, "--across", asked.across,
                  fmt::format("What the axis across shows: {}", across));
  declare_stretch(verb, "--up", asked.up, fmt::format("What the axis upwards shows: {}", up));
}

/// A kind of chart: how it is drawn, and what may be said of it besides the lesson.
struct ChartKind {
  std::string name;
  std::string sentence;
  std::function<Chart(const DrawAsked&)> draw;
  std::function<void(Verb& verb, DrawAsked& asked)> declare;
  bool takes_lesson = true;
  bool takes_rows = false;  ///< whether a model may have the rows of a file
  std::function<Json(const DrawAsked&)> numbers = nullptr;  ///< for JSON, if it has any
};

void declare_more(Verb& verb, DrawAsked& asked) {
  verb.heading("Lesson");
  verb.texts("more", asked.more, "More lesson files or model files");
  verb.heading("Picture");
}

/// A chart that a subject brings along.
ChartKind kind_of_subject(const SubjectChart& chart) {
  const auto draw = [&chart](const DrawAsked& asked) {
    return chart.draw({.out = asked.out,
                       .frames = asked.frames,
                       .options = asked.options_of_subject,
                       .trained = [&asked] { return learnt_on(asked); }});
  };
  const auto declare = [&chart](Verb& verb, DrawAsked& asked) {
    for (const SubjectChart::Option& option : chart.options) {
      verb.read(
          option.name,
          [&asked, &option](const std::string& text) {
            asked.options_of_subject[option.name] = text;
          },
          option.sentence, option.type);
    }
    if (chart.moves) declare_frames(verb, asked);
  };
  return {.name = chart.name,
          .sentence = chart.sentence,
          .draw = draw,
          .declare = declare,
          .takes_rows = chart.takes_rows};
}

/// The charts of any kind of data.
std::vector<ChartKind> charts_of_any_data() {
  return {
      {"blocks", "Networks side by side: layers, shapes, weights, skip connections", draw_blocks,
       declare_more},
      {"curves", "Loss and accuracy by epoch, of one run or several overlaid", draw_curves,
       [](Verb& verb, DrawAsked& asked) {
         declare_more(verb, asked);
         declare_axes(verb, asked, "epochs, or steps", "losses");
         declare_stretch(verb, "--up-accuracy", asked.up_accuracy,
                         "The same of the accuracies: 0.9,1");
       }},
      {"flow", "Outputs and gradients of networks, layer by layer, epoch by epoch", draw_flow,
       declare_more},
      {"regions", "Two features: rows and decision regions, before and after; .gif moves",
       draw_regions,
       [](Verb& verb, DrawAsked& asked) {
         declare_part(verb, asked);
         declare_frames(verb, asked);
         declare_axes(verb, asked, "the first feature, as measured", "the second");
       }},
      {"line", "One feature: rows as points, and the fitted line or curve; .gif moves", draw_line,
       [](Verb& verb, DrawAsked& asked) {
         declare_part(verb, asked);
         declare_frames(verb, asked);
         declare_axes(verb, asked, "the feature, as measured", "the targets");
       }},
      {"weights", "A weight as a table, or as pictures by input position", draw_weights,
       [](Verb& verb, DrawAsked& asked) {
         verb.text("--weight", asked.weight, "Which weight (default: the first)", "NAME");
         verb.read(
             "--lay-out",
             [&asked](const std::string& text) {
               asked.lay_out =
                   crossed_numbers("--lay-out", text, "rows x columns, such as 28x28", 1, 100'000);
             },
             "Rows x columns of the inputs (known for pictures)", "RxC");
         verb.flag("--learnt", asked.learnt_alone,
                   "What was learnt alone: each number less the one that it started as");
       }},
      {"confusion", "Confusion matrix: true classes by answers", draw_confusion,
       declare_judged_part, true, true},
      {"function", "Activations and their derivatives", draw_function,
       [](Verb& verb, DrawAsked& asked) {
         verb.texts("functions", asked.functions, "tanh, relu, sigmoid …; as in a blueprint",
                    "TEXT", {.required = true});
         declare_axes(verb, asked, "the range to draw over (default -4,4)",
                      "values and derivatives");
         verb.text("--title", asked.title, "What stands above it");
         verb.heading("Printing");
         verb.flag("--json", asked.options.json, "Print one JSON document and nothing else");
       },
       false, false, function_json},
      {"descent", "The path of two weights down the loss: full batch, minibatches, single rows",
       draw_descent,
       [](Verb& verb, DrawAsked& asked) {
         verb.two_texts("--along", asked.places,
                        "Which two: 'output.weight[0,0]' 'output.bias[0]' (default: the first two)",
                        "NUMBER");
         declare_axes(verb, asked, "numbers of the first of the two", "of the second");
       }},
      {"samples", "Rows with features, true class or number, and answer", draw_samples,
       [](Verb& verb, DrawAsked& asked) {
         declare_part(verb, asked);
         verb.read(
             "--samples",
             [&asked](const std::string& text) {
               asked.samples = whole_number("--samples", text, 1, 60);
             },
             "How many rows (default 12)", "N");
         verb.read(
             "--step",
             [&asked](const std::string& text) {
               asked.step =
                   whole_number("--step", text, 1, std::numeric_limits<std::int64_t>::max());
             },
             "The minibatch of this step of the run, and what was said of it before the step", "N");
         verb.read(
             "--wrong",
             [&asked](const std::string& text) {
               asked.wrong = whole_number("--wrong", text, 1, 60);
             },
             "So many rows that the network gets wrong, the worst first", "N");
       },
       true, true}};
}

const std::vector<ChartKind>& chart_kinds() {
  static const std::vector<ChartKind> kinds = [] {
    std::vector<ChartKind> all = charts_of_any_data();
    for (const ShownSubject& subject : shown_subjects()) {
      for (const SubjectChart& chart : subject.charts)
        all.push_back(kind_of_subject(chart));
    }
    return all;
  }();
  return kinds;
}

/// The files that a chart is drawn from.
std::vector<std::string> inputs_of(const DrawAsked& asked) {
  std::vector<std::string> inputs = asked.more;
  inputs.push_back(asked.options.subject);
  for (std::size_t at = 0, count = inputs.size(); at < count; ++at) {
    if (what_is_named(inputs[at]) != Named::lesson_file) continue;
    for (std::string& file : files_read_by(read_lesson(inputs[at])))
      inputs.push_back(std::move(file));
  }
  for (std::string& file : files_read_by(asked.options.lesson_on({})))
    inputs.push_back(std::move(file));
  return inputs;
}

/// Refuses settings of a run where there are models alone, which have learnt already.
void check_models(const ChartKind& kind, const DrawAsked& asked) {
  if (!is_model_file(asked.options.subject) || !std::ranges::all_of(asked.more, is_model_file))
    return;
  if (kind.takes_rows) {
    asked.options.check_for(asked.options.subject, {"title", "reference", "file", "labels"});
  } else {
    asked.options.check_for(asked.options.subject, {"title", "reference"});
  }
}

void declare_chart(const ChartKind& kind, Verb& verb, Console& console) {
  auto asked = std::make_shared<DrawAsked>();
  asked->console = &console;
  verb.heading("Picture");
  verb.file(
      "--out", asked->out,
      fmt::format("The picture: .svg, .png, or .gif where it moves (default {}.svg)", kind.name),
      "FILE");
  verb.read(
      "--size",
      [asked](const std::string& text) {
        const auto [width, height] =
            crossed_numbers("--size", text, "width x height, such as 900x600", 200, 4000);
        asked->size = ChartSize{.width = width, .height = height};
      },
      "Its width and height in pixels (default 1280x800; 800x560 where it moves)", "WxH");
  if (kind.takes_lesson) asked->options.declare(verb, console);
  verb.heading("Picture");
  kind.declare(verb, *asked);
  verb.runs([asked, &kind, &console] {
    if (asked->out.empty()) asked->out = kind.name + ".svg";
    Chart::check_ending(asked->out);
    check_outputs({{"--out", asked->out}}, inputs_of(*asked), console);
    if (kind.takes_lesson) check_models(kind, *asked);
    kind.draw(*asked).write(asked->out, asked->size);
    if (asked->options.json) {
      std::error_code problem;
      const auto bytes = std::filesystem::file_size(asked->out, problem);
      Json json = {
          {"chart", kind.name}, {"file", asked->out}, {"bytes", problem ? Json() : Json(bytes)}};
      if (kind.numbers) json["curves"] = kind.numbers(*asked);
      write(console.out, json);
    } else {
      console.print_line(written(asked->out));
    }
  });
}

Verb verb_of(const ChartKind& kind, Console& console) {
  return {kind.name, kind.sentence, console,
          [&kind](Verb& verb, Console& of) { declare_chart(kind, verb, of); }};
}

void declare_draw(Verb& draw, Console& console) {
  for (const ChartKind& kind : chart_kinds())
    draw.add(verb_of(kind, console));
  draw.add(graph_verb(console));
  draw.add(network_verb(console));
}

}  // namespace

Verb draw_verb(Console& console) {
  return {"draw", "Draw charts of runs, regions, weights and functions, and graphs of calculations",
          console, declare_draw};
}

}  // namespace lattice::tools
