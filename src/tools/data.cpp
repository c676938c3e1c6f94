#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <cstdint>
#include <filesystem>
#include <limits>
#include <map>
#include <memory>
#include <numeric>
#include <optional>
#include <utility>

#include "files/file.hpp"
#include "lattice/data/demo_sets.hpp"
#include "lattice/data/summary.hpp"
#include "lattice/files/npy.hpp"
#include "lattice/lessons/lesson_data.hpp"
#include "lattice/lessons/prepare.hpp"
#include "lattice/show/charts.hpp"
#include "lattice/show/data.hpp"
#include "lattice/show/shown_subject.hpp"
#include "lattice/text/error.hpp"
#include "lattice/text/wrapping.hpp"
#include "text/counted.hpp"
#include "text/typed.hpp"
#include "tools/commands.hpp"
#include "tools/options.hpp"
#include "tools/outputs.hpp"

namespace lattice::tools {
namespace {

void list_sets(Console& console, bool json) {
  if (json) {
    Json sets = Json::array();
    for (const DemoSet& set : demo_sets())
      sets.push_back({{"name", set.name}, {"rows", set.usual_rows}, {"story", set.story}});
    write(console.out, {{"sets", std::move(sets)}});
    return;
  }
  console.out << show_heading("demo sets", console.style);
  for (const DemoSet& set : demo_sets()) {
    console.out << paragraph(fmt::format("{}: {} ({} rows)", set.name, set.story, set.usual_rows),
                             console.style.width);
  }
  console.out << "\nLook at one:        lattice data glazes\n"
                 "Look at your own:   lattice data --file my.csv --target column\n";
}

Json number_json(const NumberSummary& column) {
  return {{"name", column.name},
          {"lowest", column.low},
          {"highest", column.high},
          {"mean", column.mean},
          {"standard_deviation", column.standard_deviation}};
}

Json data_json(const Dataset& data) {
  const DataSummary summary = summarise(data);
  Json json = {{"name", summary.name},
               {"rows", summary.rows},
               {"features", Json::array()},
               {"targets", Json::array()}};
  for (const NumberSummary& feature : summary.features)
    json["features"].push_back(number_json(feature));
  for (const NumberSummary& numbers : summary.numbers)
    json["targets"].push_back(number_json(numbers));
  const ShownSubject* const subject = shown_subject_of(data);
  if (subject != nullptr && subject->data_json != nullptr)
    json[subject->name] = subject->data_json(data);
  if (summary.row_weights) json["row_weights"] = number_json(*summary.row_weights);
  if (summary.numbers.empty()) {
    Json sizes = Json::object();
    for (std::size_t at = 0; at < summary.class_names.size(); ++at)
      sizes[summary.class_names[at]] = summary.class_sizes[at];
    json["targets"].push_back({{"name", summary.target}, {"classes", std::move(sizes)}});
  }
  return json;
}

/// What there is to notice about a table, and its rows as they would be dealt out. Too few rows for
/// that can be looked at all the same.
std::vector<Remark> remarks_on_reading(const TableReading& reading, const Lesson& lesson,
                                       Console& console) {
  std::vector<Remark> remarks = remarks_on(reading.decimal_commas, reading.data.name);
  try {
    Random dealing = Random(lesson.seed).branch("parts");
    const Split dealt = split(reading.data, lesson.split_in_force(), dealing);
    for (Remark& remark : remarks_on(prepared(dealt, lesson.scale_for(reading.data))))
      remarks.push_back(std::move(remark));
  } catch (const SettingError& error) {
    console.tell(
        fmt::format("to train on these rows other parts are needed: {}\n", error.trouble().what));
  }
  return without(std::move(remarks), lesson.quiet);
}

/// The ways to write rows out: those of any data, and of subjects.
std::vector<DataWriter> data_writers() {
  std::vector<DataWriter> writers = {
      {.option = "--csv",
       .type = "PATH",
       .sentence = "Write the rows to a CSV file",
       .write = [](const Dataset& data,
                   const std::filesystem::path& path) { write_file(path, to_csv(data)); }},
      {.option = "--npy",
       .type = "PATH",
       .sentence = "Write the features as an array, to an NPY file",
       .write = [](const Dataset& data, const std::filesystem::path& path) {
         write_file(path, to_npy(data.features));
       }}};
  for (const ShownSubject& subject : shown_subjects())
    writers.insert(writers.end(), subject.writers.begin(), subject.writers.end());
  return writers;
}

/// What is drawn of data, before any network.
enum class Drawn : std::uint8_t { pictures, points, histograms, correlations };

constexpr Words<Drawn> drawn_words = {{Drawn::pictures, "pictures"},
                                      {Drawn::points, "points"},
                                      {Drawn::histograms, "histograms"},
                                      {Drawn::correlations, "correlations"}};

struct DataAsked {
  LessonOptions options;
  std::string draw = {};
  std::optional<Drawn> as = std::nullopt;
  std::vector<std::string> axes = {};
  std::optional<std::int64_t> step = std::nullopt;
  std::int64_t samples = 40;
  std::vector<DataWriter> writers = data_writers();
  std::map<std::string, std::string> paths = {};  ///< by option; empty where it was not given
};

/// Rows to be drawn, and what is said of them.
struct RowsDrawn {
  RowSet rows = {};
  AugmentedEpoch augmented = {};
  std::string title = {};
};

/// All rows; or those of a minibatch, as it is trained on.
RowsDrawn rows_drawn(const DataAsked& asked, const TableReading& reading, const Lesson& lesson) {
  const Dataset& data = reading.data;
  const std::string name = lesson.title.empty() ? data.name : lesson.title;
  if (!asked.step)
    return {.rows = data, .title = fmt::format("{}: {}", name, counted(data.rows(), "row"))};
  Random dealing = Random(lesson.seed).branch("parts");
  const Split parts = split(data, lesson.split_in_force(), dealing);
  const StepRows of_step = rows_of_step(parts, training_of(lesson, parts.train), *asked.step);
  return {
      .rows = {data, of_step.rows},
      .augmented = of_step.augmented,
      .title = fmt::format("{}: minibatch of step {}, epoch {}", name, *asked.step, of_step.epoch)};
}

/// The two columns that points lie between: those that are named, else the first two features, or
/// the first feature and the number to predict.
std::pair<DataColumn, DataColumn> axes_of(const DataAsked& asked, const Dataset& data) {
  if (asked.axes.size() == 2)
    return {data_column(data, asked.axes[0]), data_column(data, asked.axes[1])};
  if (!data.has_classes()) return {{.number = 0}, {.is_target = true, .number = 0}};
  return {{.number = 0}, {.number = std::min<std::int64_t>(1, data.feature_count() - 1)}};
}

/// A sheet of labelled pictures: all rows of a minibatch as they are augmented, else some from all
/// over the rows.
Chart draw_pictures(const RowsDrawn& drawn, std::int64_t samples) {
  const Dataset& data = drawn.rows.data();
  std::vector<std::int64_t> places;
  const std::int64_t count = std::min(samples, drawn.rows.count());
  for (std::int64_t at = 0; at < count; ++at)
    places.push_back(at * drawn.rows.count() / count);
  const RowSet some = drawn.rows.taking(places);
  std::vector<CaptionedPicture> pictures = samples_of(some, count);
  if (!drawn.augmented.how.empty()) {
    std::vector<std::int64_t> all(static_cast<std::size_t>(count));
    std::iota(all.begin(), all.end(), 0);
    const Batch batch = some.at(all, drawn.augmented);
    for (std::int64_t at = 0; at < count; ++at) {
      pictures[static_cast<std::size_t>(at)].picture =
          batch.features.rows(std::vector<std::int64_t>{at}).reshaped(data.example());
    }
  }
  return pictures_chart(
      drawn.title, {{.pictures = std::move(pictures), .brightness = brightness_of(data.features)}});
}

/// Draws data for `data --draw`.
void draw(const DataAsked& asked, const TableReading& reading, const Lesson& lesson) {
  const RowsDrawn drawn = rows_drawn(asked, reading, lesson);
  const Dataset& data = drawn.rows.data();
  const bool are_pictures = is_raster(data.example());
  const Drawn usual = are_pictures                                      ? Drawn::pictures
                      : data.has_classes() && data.feature_count() == 1 ? Drawn::histograms
                                                                        : Drawn::points;
  const Drawn as = asked.as.value_or(usual);
  if (as == Drawn::pictures && !are_pictures) {
    throw SettingError({.what = "these rows are no pictures",
                        .expected = "--as points, histograms or correlations",
                        .found = to_string(data.example()),
                        .remedy = "--picture treats rows of pixels as pictures"});
  }
  const auto chart = [&]() -> Chart {
    switch (as) {
      case Drawn::pictures:
        return draw_pictures(drawn, asked.samples);
      case Drawn::histograms:
        return histograms_chart(drawn.title, drawn.rows);
      case Drawn::correlations:
        return correlations_chart(drawn.title, drawn.rows);
      case Drawn::points:
        break;
    }
    if (!data.is_table() || data.has_own_features()) {
      throw SettingError({.what = "these rows have no features to draw",
                          .expected = "a table of numbers",
                          .found = to_string(data.example())});
    }
    const auto [across, up] = axes_of(asked, data);
    return points_chart(drawn.title, drawn.rows, across, up);
  };
  chart().write(asked.draw);
}

void look_at(const DataAsked& asked, const Lesson& lesson, Console& console) {
  std::vector<Output> files;
  for (const DataWriter& writer : asked.writers) {
    if (!writer.is_folder) files.push_back({writer.option, asked.paths.at(writer.option)});
  }
  if (!asked.draw.empty()) {
    Chart::check_ending(asked.draw);
    files.push_back({"--draw", asked.draw});
  }
  check_outputs(files, asked.options.inputs(lesson), console);
  const TableReading reading = read_data(lesson, outputs_of(lesson.network.blueprint));
  const std::vector<Remark> remarks = remarks_on_reading(reading, lesson, console);
  std::vector<std::string> written_to;
  for (const DataWriter& writer : asked.writers) {
    const std::string& path = asked.paths.at(writer.option);
    if (path.empty()) continue;
    writer.write(reading.data, path);
    written_to.push_back(path);
  }
  if (!asked.draw.empty()) {
    draw(asked, reading, lesson);
    written_to.push_back(asked.draw);
  }
  if (asked.options.json) {
    Json json = data_json(reading.data);
    json["rows_dropped"] = reading.rows_dropped;
    json["columns_left_out"] = reading.left_out;
    if (reading.rows_drawn_from > 0) json["rows_drawn_from"] = reading.rows_drawn_from;
    if (!written_to.empty()) json["written_to"] = written_to;
    json["remarks"] = to_json(remarks);
    write(console.out, json);
    return;
  }
  TerminalStyle style = console.style;
  style.digits = asked.options.digits;
  console.out << show_heading("data: " + reading.data.name, style)
              << show_data(reading.data, style);
  if (!written_to.empty()) {
    console.out << "\n";
    console.print_line(fmt::format("written: {}", fmt::join(written_to, ", ")));
  }
  say(reading, console);
  say(remarks, lesson, console);
}

void declare_data(Verb& verb, Console& console) {
  auto asked = std::make_shared<DataAsked>();
  asked->options.declare(verb, console);
  verb.heading("Drawing");
  verb.file("--draw", asked->draw,
            "Draw the rows, before any network: pictures with their labels, or points by class: "
            ".svg or .png");
  verb.read("--as",
            [asked](const std::string& text) {
              asked->as = drawn_words.parse("--as cannot be this", text);
            },
            "What is drawn: pictures, points, histograms by class, or correlations", "KIND",
            {.needs = "--draw"});
  verb.read("--axes",
            [asked](const std::string& text) {
              asked->axes = parse_csv_record(text);
              if (asked->axes.size() == 2) return;
              throw SettingError({.what = "--axes needs two columns",
                                  .expected = "two names with a comma, such as iron,gloss",
                                  .found = fmt::format("'{}'", text)});
            },
            "The two columns that points lie between (default: the first two features)", "A,B",
            {.needs = "--draw"});
  verb.read("--minibatch",
            [asked](const std::string& text) {
              asked->step =
                  whole_number("--minibatch", text, 1, std::numeric_limits<std::int64_t>::max());
            },
            "Only the rows of the minibatch of this step, augmented as the run trains on them", "N",
            {.needs = "--draw"});
  verb.read("--samples",
            [asked](const std::string& text) {
              asked->samples = whole_number("--samples", text, 1, 200);
            },
            "How many pictures (default 40)", "N", {.needs = "--draw"});
  verb.heading("Writing");
  for (const DataWriter& writer : asked->writers)
    verb.file(writer.option, asked->paths[writer.option], writer.sentence, writer.type);
  verb.runs([asked, &console] {
    const Lesson lesson = asked->options.lesson();
    if (lesson.data.is_named()) return look_at(*asked, lesson, console);
    for (const auto& [option, path] : asked->paths) {
      if (path.empty()) continue;
      throw SettingError(
          {.what = fmt::format("{} writes out one set", option),
           .expected = "a demo set or a file with it",
           .found = "neither",
           .remedy = fmt::format("lattice data glazes {}", typed_flag(option, path))});
    }
    if (!asked->draw.empty()) {
      throw SettingError({.what = "--draw draws one set",
                          .expected = "a demo set or a file with it",
                          .found = "neither",
                          .remedy = "lattice data glazes --draw glazes.svg"});
    }
    list_sets(console, asked->options.json);
  });
}

}  // namespace

Verb data_verb(Console& console) {
  return {"data", "List the demo sets, or inspect one of them or a table of your own", console,
          declare_data};
}

}  // namespace lattice::tools
