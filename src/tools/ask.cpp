#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <memory>

#include "lattice/show/charts.hpp"
#include "lattice/text/error.hpp"
#include "lattice/text/letters.hpp"
#include "lattice/text/nearest.hpp"
#include "tools/commands.hpp"
#include "tools/options.hpp"
#include "tools/records.hpp"
#include "tools/run_lesson.hpp"

namespace lattice::tools {
namespace {

struct AskAsked {
  std::string model;
  std::vector<std::string> records;
  std::string file;
  std::string draw;
  int digits = usual_digits;
  bool json = false;
};

void say_what_is_not_used(const Table& table, const Model& model, Console& console) {
  const std::vector<std::string> names = feature_columns(model);
  std::vector<std::string> extra;
  for (const std::string& column : table.header) {
    const bool is_target =
        std::ranges::find(model.target_names, column) != model.target_names.end();
    if (!is_target && std::ranges::find(names, column) == names.end()) extra.push_back(column);
  }
  if (!extra.empty()) {
    console.tell(
        fmt::format("{}: the model did not learn from these columns, and does not look "
                    "at them: {}\n",
                    table.name, fmt::join(extra, ", ")));
  }
}

Json answers_json(const Model& model, const Answers& answers) {
  Json list = Json::array();
  for (std::int64_t row = 0; row < answers.scores.shape()[0]; ++row) {
    if (model.class_names.empty()) {
      Json numbers = Json::object();
      for (std::size_t of = 0; of < model.target_names.size(); ++of)
        numbers[model.target_names[of]] = answers.numbers.at({row, static_cast<std::int64_t>(of)});
      list.push_back(std::move(numbers));
      continue;
    }
    Json probabilities = Json::object();
    for (std::size_t of = 0; of < model.class_names.size(); ++of) {
      probabilities[model.class_names[of]] =
          answers.probabilities.at({row, static_cast<std::int64_t>(of)});
    }
    const auto likeliest = static_cast<std::size_t>(answers.classes.at_offset(row));
    list.push_back(
        {{model.target_names.front(), model.class_names[likeliest]},
         {answers.kind == Outputs::levels ? "levels" : "probabilities", std::move(probabilities)}});
  }
  return list;
}

void ask_model(const AskAsked& asked, Console& console) {
  const ModelFile file = load_model(asked.model);
  const Model& model = file.model;
  if (asked.records.empty() == asked.file.empty()) {
    throw SettingError(
        {.what = "what is the model asked about?",
         .expected = "either --record or --file",
         .found = asked.file.empty() ? "neither" : "both",
         .remedy = fmt::format("--record {}=…", fmt::join(feature_columns(model), "=…,"))});
  }
  const Table table = asked.file.empty() ? records_table(asked.records, model)
                                         : read_table(asked.file, file.lesson.csv);
  if (!asked.file.empty()) say_what_is_not_used(table, model, console);
  say(remarks_on(table.decimal_commas, table.name), file.lesson, console);
  check_outputs({{"--draw", asked.draw}}, {asked.model, asked.file}, console);
  const Answers answers = ask(model, table);
  say(remarks_on(model, answers.features), file.lesson, console);
  if (!asked.draw.empty()) {
    answers_chart(fmt::format("{}: what {} says", file.data_name, asked.model), model, answers)
        .write(asked.draw);
  }
  if (asked.json) {
    write(console.out, {{"model", asked.model}, {"answers", answers_json(model, answers)}});
    return;
  }
  TerminalStyle style = console.style;
  style.digits = asked.digits;
  console.out << show_answers(model, answers, style);
  if (!asked.draw.empty()) console.print(written(asked.draw) + "\n");
}

}  // namespace

Verb ask_verb(Console& console) {
  auto asked = std::make_shared<AskAsked>();
  Verb verb("ask", "Ask a model about new records, in raw units");
  verb.text("model", asked->model, "A model file, as train --save writes it", "TEXT",
            {.required = true});
  verb.texts(
      "--record", asked->records,
      "A record: thickness=4.1,hours=30, or 4.1,30 in the order of the columns; may be repeated",
      "NAME=VALUE,…");
  verb.file("--file", asked->file, "Records in a CSV file with the same columns", "PATH");
  declare_printing(verb, asked->digits, asked->json);
  verb.file("--draw", asked->draw, "Draw the probabilities as bars: .svg or .png", "FILE");
  verb.runs([asked, &console] { ask_model(*asked, console); });
  return verb;
}

}  // namespace lattice::tools
