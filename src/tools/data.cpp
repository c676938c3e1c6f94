#include <fmt/format.h>
#include <fmt/ranges.h>

#include <filesystem>
#include <map>
#include <memory>

#include "files/file.hpp"
#include "lattice/data/demo_sets.hpp"
#include "lattice/data/summary.hpp"
#include "lattice/files/npy.hpp"
#include "lattice/lessons/lesson_data.hpp"
#include "lattice/show/data.hpp"
#include "lattice/show/shown_subject.hpp"
#include "lattice/text/error.hpp"
#include "lattice/text/wrapping.hpp"
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
    console.out << paragraph(fmt::format("{}: {} ({} rows)", set.name, set.story, set.usual_rows));
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

struct DataAsked {
  LessonOptions options;
  std::vector<DataWriter> writers = data_writers();
  std::map<std::string, std::string> paths = {};  ///< by option; empty where it was not given
};

void look_at(const DataAsked& asked, Lesson lesson, Console& console) {
  std::vector<Output> files;
  for (const DataWriter& writer : asked.writers) {
    if (!writer.is_folder) files.push_back({writer.option, asked.paths.at(writer.option)});
  }
  check_outputs(files, asked.options.inputs(lesson), console);
  if (lesson.data.columns.targets.empty() && reads_table(lesson)) {
    lesson.data.columns.targets = {
        read_table(lesson.data.files.front(), lesson.data.csv).header.back()};
    console.tell_line(fmt::format("the last column, '{}', is taken for the target (else: --target)",
                                  lesson.data.columns.targets.front()));
  }
  const TableReading reading = read_data(lesson, outputs_of(lesson.network.blueprint));
  const std::vector<Remark> remarks = remarks_on_reading(reading, lesson, console);
  std::vector<std::string> written_to;
  for (const DataWriter& writer : asked.writers) {
    const std::string& path = asked.paths.at(writer.option);
    if (path.empty()) continue;
    writer.write(reading.data, path);
    written_to.push_back(path);
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

}  // namespace

Verb data_verb(Console& console) {
  auto asked = std::make_shared<DataAsked>();
  Verb verb("data", "List the demo sets, or inspect one of them or a table of your own");
  asked->options.declare(verb, console);
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
    list_sets(console, asked->options.json);
  });
  return verb;
}

}  // namespace lattice::tools
