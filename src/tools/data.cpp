#include <fmt/format.h>

#include <memory>

#include "lattice/data/demo_sets.hpp"
#include "lattice/show/lesson.hpp"
#include "tools/commands.hpp"
#include "tools/options.hpp"

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
          {"spread", column.spread}};
}

Json data_json(const Dataset& data) {
  const DataSummary summary = summarise(data);
  Json json = {{"name", summary.name},
               {"rows", summary.rows},
               {"features", Json::array()},
               {"target", {{"name", summary.target}}}};
  for (const NumberSummary& feature : summary.features)
    json["features"].push_back(number_json(feature));
  for (const NumberSummary& numbers : summary.numbers)
    json["target"] = number_json(numbers);
  for (std::size_t at = 0; at < summary.class_names.size(); ++at)
    json["target"]["classes"][summary.class_names[at]] = summary.class_sizes[at];
  return json;
}

}  // namespace

Verb data_verb(Console& console) {
  auto options = std::make_shared<LessonOptions>();
  Verb verb("data", "List the demo sets, or look at one of them or at a table of your own");
  options->declare(verb);
  verb.runs([options, &console] {
    Lesson lesson = options->lesson();
    if (lesson.set.empty() && lesson.file.empty()) {
      list_sets(console, options->json);
      return;
    }
    if (!lesson.file.empty() && lesson.columns.target.empty()) {
      lesson.columns.target = read_table(lesson.file, lesson.csv).header.back();
      console.tell(fmt::format("the last column, '{}', is taken for the target (else: --target)\n",
                               lesson.columns.target));
    }
    const TableReading reading = read_data(lesson);
    Random dealing = Random(lesson.seed).branch("parts");
    const Parts parts = split(reading.data, lesson.split(), dealing);
    const std::vector<Remark> remarks =
        without(remarks_on(scaled(parts, lesson.scale)), lesson.quiet);
    if (options->json) {
      Json json = data_json(reading.data);
      json["rows_dropped"] = reading.rows_dropped;
      json["columns_left_out"] = reading.left_out;
      json["remarks"] = to_json(remarks);
      write(console.out, json);
      return;
    }
    TerminalStyle style = console.style;
    style.digits = options->digits;
    console.out << show_heading("data: " + reading.data.name, style)
                << show_data(reading.data, style);
    say(reading, console);
    say(remarks, lesson, console);
  });
  return verb;
}

}  // namespace lattice::tools
