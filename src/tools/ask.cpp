#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <filesystem>
#include <memory>

#include "lattice/files/pictures.hpp"
#include "lattice/learning/worked_answers.hpp"
#include "lattice/show/charts.hpp"
#include "lattice/show/pictures.hpp"
#include "lattice/text/error.hpp"
#include "lattice/text/letters.hpp"
#include "lattice/text/nearest.hpp"
#include "lattice/worksheet/watch.hpp"
#include "text/typed.hpp"
#include "tools/commands.hpp"
#include "tools/options.hpp"
#include "tools/records.hpp"
#include "tools/run_lesson.hpp"

namespace lattice::tools {
namespace {

struct AskAsked {
  std::string model;
  std::vector<std::string> pictures;
  std::vector<std::string> records;
  std::vector<std::string> nodes;
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
    console.tell_line(
        fmt::format("{}: the model did not learn from these columns, and does not look "
                    "at them: {}",
                    table.name, fmt::join(extra, ", ")));
  }
}

/// @param files of the records, where each has one
Json answers_json(const Model& model, const Answers& answers,
                  const std::vector<std::string>& files) {
  Json list = Json::array();
  for (std::int64_t row = 0; row < answers.scores.shape()[0]; ++row) {
    Json answer = Json::object();
    if (!files.empty()) answer["file"] = files[static_cast<std::size_t>(row)];
    if (!answers.has_answer(row)) {
      for (const std::string& target : model.target_names)
        answer[target] = nullptr;
      list.push_back(std::move(answer));
      continue;
    }
    if (model.class_names.empty()) {
      for (std::size_t of = 0; of < model.target_names.size(); ++of)
        answer[model.target_names[of]] = answers.numbers.at({row, static_cast<std::int64_t>(of)});
      list.push_back(std::move(answer));
      continue;
    }
    Json probabilities = Json::object();
    for (std::size_t of = 0; of < model.class_names.size(); ++of) {
      probabilities[model.class_names[of]] =
          answers.probabilities.at({row, static_cast<std::int64_t>(of)});
    }
    const auto likeliest = static_cast<std::size_t>(answers.classes.at_offset(row));
    answer[model.target_names.front()] = model.class_names[likeliest];
    answer[answers.kind == Outputs::levels ? "levels" : "probabilities"] = std::move(probabilities);
    list.push_back(std::move(answer));
  }
  return list;
}

/// What a model is asked, as it was measured.
struct Questions {
  Examples raw = {};
  bool are_pictures = false;
  std::vector<std::string> files = {};  ///< of each picture, where it has one
};

Questions questions_in(const AskAsked& asked, const ModelFile& file, Console& console) {
  const Model& model = file.model;
  const bool asks_of_records =
      !asked.records.empty() || !asked.pictures.empty() || !asked.file.empty();
  check_fits_graph(model, !asked.nodes.empty(), asks_of_records);
  if (!asked.nodes.empty()) return {};
  const bool is_table_file = !asked.file.empty() && !holds_pictures(asked.file);
  const int ways = static_cast<int>(!asked.pictures.empty()) +
                   static_cast<int>(!asked.records.empty()) + static_cast<int>(!asked.file.empty());
  const bool by_record = !asked.records.empty() && !model.columns.empty();
  if (ways != 1 || (!asked.records.empty() && !by_record)) {
    const bool pictures = takes_pictures(model);
    throw SettingError(
        {.what = "what is the model asked about?",
         .expected = model.graph ? "nodes, --node NAME"
                     : pictures  ? "pictures, or --file"
                                 : "either --record or --file",
         .found = ways == 0   ? "neither"
                  : ways == 1 ? "--record"
                              : "several of them",
         .remedy = model.graph ? typed_flag("--node", model.graph->row_name(0))
                   : pictures  ? fmt::format("lattice ask {} photo.png", typed(asked.model))
                               : typed_flag("--record",
                                            fmt::format("{}=…",
                                                        fmt::join(feature_columns(model), "=…,")))});
  }
  if (asked.records.empty() && !is_table_file) {
    const PicturesAlone read = pictures_for(
        file, asked.file.empty() ? asked.pictures : std::vector<std::string>{asked.file}, console);
    return {.raw = read.pictures, .are_pictures = true, .files = read.names};
  }
  const Table table = asked.file.empty() ? records_table(asked.records, model)
                                         : read_table(asked.file, file.lesson.csv);
  if (!asked.file.empty()) say_what_is_not_used(table, model, console);
  say(remarks_on(table.decimal_commas, table.name), file.lesson, console);
  return {.raw = examples_from(model, table)};
}

std::vector<std::string> inputs_of(const AskAsked& asked) {
  std::vector<std::string> inputs = asked.pictures;
  inputs.push_back(asked.model);
  inputs.push_back(asked.file);
  return inputs;
}

/// A file and the folder that it is in.
std::string short_path(const std::filesystem::path& path) {
  return (path.parent_path().filename() / path.filename()).string();
}

constexpr std::int64_t most_pictures_shown = 12;

/// The pictures as the model saw them, each with its answer.
std::vector<CaptionedPicture> pictures_of(const Questions& questions, const Model& model,
                                          const Answers& answers) {
  std::vector<CaptionedPicture> pictures;
  for (std::int64_t row = 0; row < questions.raw.shape()[0]; ++row) {
    const std::vector<std::int64_t> one = {row};
    std::string caption = answers.name_of(row);
    if (!model.class_names.empty() && answers.has_answer(row)) {
      caption += fmt::format(
          " {}", model.class_names[static_cast<std::size_t>(answers.classes.at_offset(row))]);
    }
    pictures.push_back(
        {.picture = questions.raw.rows(one).reshaped(model.network.example()), .caption = caption});
  }
  return pictures;
}

/// Tells of the first record that has no answer where its numbers went astray, as `work` does.
/// @returns whether all have one
bool say_what_has_no_answer(const Model& model, const Answers& answers, const Questions& questions,
                            Console& console) {
  for (std::int64_t row = 0; row < answers.scores.shape()[0]; ++row) {
    if (answers.has_answer(row)) continue;
    console.tell_line(fmt::format("{} {} has no answer", model.graph ? "node" : "record",
                                  harmless(answers.name_of(row))));
    if (model.graph) return false;
    const std::vector<std::int64_t> one = {row};
    const WorkedSheet work =
        work_answers(model, {.rows = {}, .features = questions.raw.rows(one)}, 0);
    if (const std::optional<Alarm> alarm = watch(work.sheet())) console.tell(alarm->text() + "\n");
    return false;
  }
  return true;
}

void ask_model(const AskAsked& asked, Console& console) {
  const ModelFile file = load_model(asked.model);
  const Model& model = file.model;
  const Questions questions = questions_in(asked, file, console);
  check_outputs({{"--draw", asked.draw}}, inputs_of(asked), console);
  const std::vector<std::int64_t> nodes =
      model.graph ? nodes_called(*model.graph, asked.nodes) : std::vector<std::int64_t>();
  Answers answers = nodes.empty() ? ask(model, questions.raw) : ask_nodes(model, nodes);
  for (const std::string& path : questions.files)
    answers.names.push_back(short_path(path));
  if (nodes.empty()) say(remarks_on(model, questions.raw), file.lesson, console);
  const bool all_have_one = say_what_has_no_answer(model, answers, questions, console);
  if (!asked.draw.empty()) {
    answers_chart(fmt::format("{}: what {} says", file.data_name, asked.model), model, answers)
        .write(asked.draw);
  }
  if (asked.json) {
    write(console.out,
          {{"model", asked.model}, {"answers", answers_json(model, answers, questions.files)}});
    if (!all_have_one) throw AnswerIsNo{};
    return;
  }
  TerminalStyle style = console.style;
  style.digits = asked.digits;
  if (questions.are_pictures && answers.scores.shape()[0] <= most_pictures_shown) {
    console.out << show_pictures(pictures_of(questions, model, answers), style,
                                 brightness_of(questions.raw))
                << "\n";
  }
  console.out << show_answers(model, answers, style);
  if (!asked.draw.empty()) console.print_line(written(asked.draw));
  if (!all_have_one) throw AnswerIsNo{};
}

}  // namespace

Verb ask_verb(Console& console) {
  auto asked = std::make_shared<AskAsked>();
  Verb verb("ask", "Ask a model about new records, in raw units");
  verb.text("model", asked->model, "A model file, as train --save writes it", "TEXT",
            {.required = true});
  verb.texts("pictures", asked->pictures,
             "Pictures, of a model that learnt from them: photo.png …");
  verb.texts(
      "--record", asked->records,
      "A record: thickness=4.1,hours=30, or 4.1,30 in the order of the columns; may be repeated",
      "NAME=VALUE,…");
  verb.texts("--node", asked->nodes,
             "A node of the graph that the model learnt from, by name; may be repeated", "NAME");
  verb.file("--file", asked->file,
            "Records in a CSV file with the same columns; or pictures, IDX or NPY", "PATH");
  declare_printing(verb, asked->digits, asked->json);
  verb.file("--draw", asked->draw, "Draw the probabilities as bars: .svg or .png", "FILE");
  verb.runs([asked, &console] { ask_model(*asked, console); });
  return verb;
}

}  // namespace lattice::tools
