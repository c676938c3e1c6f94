#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <map>
#include <memory>

#include "lattice/data/row_kind.hpp"
#include "lattice/learning/worked_answers.hpp"
#include "lattice/show/charts.hpp"
#include "lattice/show/shown_subject.hpp"
#include "lattice/text/error.hpp"
#include "lattice/text/letters.hpp"
#include "lattice/text/nearest.hpp"
#include "lattice/text/numbers.hpp"
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
  std::vector<std::string> records;
  std::map<const QuestionKind*, std::vector<std::string>> others;  ///< of subjects
  std::string file;
  std::string draw;
  bool brief = false;
  int digits = usual_digits;
  bool json = false;

  /// The questions of subjects that were asked.
  [[nodiscard]] std::vector<const QuestionKind*> kinds() const {
    std::vector<const QuestionKind*> asked;
    for (const auto& [kind, texts] : others) {
      if (!texts.empty()) asked.push_back(kind);
    }
    return asked;
  }
};

/// A class as the model calls it: the same word, or the same number.
std::string class_called(const Model& model, const std::string& field) {
  const auto same = std::ranges::find(model.class_names, field);
  if (same != model.class_names.end()) return field;
  const std::optional<double> number = parse_number(field);
  for (const std::string& name : model.class_names) {
    if (number && parse_number(name) == number) return name;
  }
  return field;
}

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
        fmt::format("{}: the model was not trained on these columns and ignores them: {}",
                    table.name, fmt::join(extra, ", ")));
  }
}

/// The truth in a table of records, where it has the columns of the targets; each as the model
/// calls it.
std::vector<std::string> truth_in(const Table& table, const Model& model) {
  std::vector<std::size_t> columns;
  for (const std::string& target : model.target_names) {
    const auto found = std::ranges::find(table.header, target);
    if (found == table.header.end()) return {};
    columns.push_back(static_cast<std::size_t>(found - table.header.begin()));
  }
  std::vector<std::string> truth;
  for (const std::vector<std::string>& row : table.rows) {
    for (const std::size_t column : columns) {
      const std::string field(trimmed(row[column]));
      truth.push_back(is_missing(field) ? "" : class_called(model, field));
    }
  }
  return truth;
}

/// @param files of the records, where each has one
Json answers_json(const Model& model, const Answers& answers, const std::vector<std::string>& files,
                  const std::vector<std::string>& truth) {
  Json list = Json::array();
  const std::size_t targets = model.target_names.size();
  for (std::int64_t row = 0; row < answers.scores.shape()[0]; ++row) {
    Json answer = Json::object();
    for (std::size_t of = 0; !truth.empty() && of < targets; ++of) {
      const std::string& text = truth[static_cast<std::size_t>(row) * targets + of];
      const std::optional<double> number =
          model.class_names.empty() ? parse_number(text) : std::nullopt;
      answer["truth"][model.target_names[of]] = text.empty() ? Json()
                                                : number     ? Json(*number)
                                                             : Json(text);
    }
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

/// Refuses no question, and several at once.
void check_is_one(const AskAsked& asked, const Model& model) {
  const QuestionKind* const own = question_for(model);
  const auto ways =
      std::ssize(asked.kinds()) + (asked.records.empty() ? 0 : 1) + (asked.file.empty() ? 0 : 1);
  const bool takes_records = !model.columns.empty();
  if (ways == 1 && (asked.records.empty() || takes_records)) return;
  const auto remedy = [&] {
    if (model.rows) return typed_flag(own->option, model.rows->row_name(0));
    if (own != nullptr) return fmt::format("lattice ask {} {}", typed(asked.model), own->example);
    return typed_flag("--record", fmt::format("{}=…", fmt::join(feature_columns(model), "=…,")));
  };
  throw SettingError({.what = fmt::format("{} needs exactly one kind of question", asked.model),
                      .expected = own == nullptr ? "either --record or --file"
                                  : own->holds == nullptr
                                      ? fmt::format("{}, {} {}", own->thing, own->option, own->type)
                                      : fmt::format("{}, or --file", own->thing),
                      .found = ways == 0   ? "none"
                               : ways == 1 ? "--record"
                                           : "several of them",
                      .remedy = remedy()});
}

Questions questions_in(const AskAsked& asked, const ModelFile& file, Console& console) {
  const Model& model = file.model;
  const QuestionKind* const own = question_for(model);
  check_fits(model, asked.kinds(), !asked.records.empty() || !asked.file.empty());
  check_is_one(asked, model);
  std::vector<std::string> texts;
  if (!asked.kinds().empty()) texts = asked.others.at(own);
  for (const ShownSubject& subject : shown_subjects()) {
    const std::optional<QuestionKind>& kind = subject.question;
    if (asked.file.empty() || !kind || kind->holds == nullptr || !kind->holds(asked.file)) continue;
    check_fits(model, {&*kind}, false);
    texts = {asked.file};
  }
  if (!texts.empty()) {
    Questions questions = own->read(file, texts);
    for (const std::string& note : questions.notes)
      console.tell_line(note);
    return questions;
  }
  const Table table = asked.file.empty() ? records_table(asked.records, model)
                                         : read_table(asked.file, file.lesson.data.csv);
  if (!asked.file.empty()) say_what_is_not_used(table, model, console);
  say(remarks_on(table.decimal_commas, table.name), file.lesson, console);
  return {.raw = examples_from(model, table),
          .truth = asked.file.empty() ? std::vector<std::string>() : truth_in(table, model)};
}

std::vector<std::string> inputs_of(const AskAsked& asked) {
  std::vector<std::string> inputs = {asked.model, asked.file};
  for (const auto& [kind, texts] : asked.others) {
    if (kind->holds != nullptr) inputs.insert(inputs.end(), texts.begin(), texts.end());
  }
  return inputs;
}

/// Tells of the first record that has no answer where its numbers went astray, as `work` does.
/// @returns whether all have one
bool say_what_has_no_answer(const Model& model, const Answers& answers, const Questions& questions,
                            Console& console) {
  for (std::int64_t row = 0; row < answers.scores.shape()[0]; ++row) {
    if (answers.has_answer(row)) continue;
    console.tell_line(fmt::format("{} {} has no answer",
                                  model.rows ? kind_of(*model.rows).one : "record",
                                  harmless(answers.name_of(row))));
    if (model.rows) return false;
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
  Answers answers = model.rows ? ask_rows(model, questions.rows) : ask(model, questions.raw);
  if (!questions.names.empty()) answers.names = questions.names;
  if (!model.rows) say(remarks_on(model, questions.raw), file.lesson, console);
  const bool all_have_one = say_what_has_no_answer(model, answers, questions, console);
  if (!asked.draw.empty()) {
    answers_chart(fmt::format("{}: what {} says", file.data_name, asked.model), model, answers)
        .write(asked.draw);
  }
  if (asked.json) {
    Json json = {{"model", asked.model},
                 {"answers", answers_json(model, answers, questions.files, questions.truth)}};
    const AnswersTally tally = tally_of(model, answers, questions.truth);
    for (const auto& [count, of] : tally.by_class)
      json["tally"][model.class_names[of]] = count;
    if (tally.with_truth > 0) {
      json["right"] = tally.right;
      json["with_truth"] = tally.with_truth;
    }
    write(console.out, json);
    if (!all_have_one) throw AnswerIsNo{};
    return;
  }
  TerminalStyle style = console.style;
  style.digits = asked.digits;
  if (questions.show) console.out << questions.show(model, answers, style);
  console.out << show_answers(model, answers, style,
                              {.truth = questions.truth, .brief = asked.brief});
  if (!asked.draw.empty()) console.print_line(written(asked.draw));
  if (!all_have_one) throw AnswerIsNo{};
}

}  // namespace

Verb ask_verb(Console& console) {
  auto asked = std::make_shared<AskAsked>();
  Verb verb("ask", "Ask a model about new records, in raw units");
  verb.text("model", asked->model, "A model file, as train --save writes it", "TEXT",
            {.required = true});
  for (const ShownSubject& subject : shown_subjects()) {
    if (!subject.question) continue;
    const QuestionKind& kind = *subject.question;
    verb.texts(kind.option, asked->others[&kind], kind.sentence, kind.type);
  }
  verb.texts(
      "--record", asked->records,
      "A record: thickness=4.1,hours=30, or 4.1,30 in the order of the columns; may be repeated",
      "NAME=VALUE,…");
  verb.file("--file", asked->file,
            "Records in a CSV file with the same columns; or pictures, IDX or NPY. If it has the "
            "target, the truth is shown beside the answers",
            "PATH");
  verb.flag("--brief", asked->brief, "Answers alone, without the share of every class");
  declare_printing(verb, asked->digits, asked->json);
  verb.file("--draw", asked->draw, "Draw the probabilities as bars: .svg or .png", "FILE");
  verb.runs([asked, &console] { ask_model(*asked, console); });
  return verb;
}

}  // namespace lattice::tools
