#include <fmt/format.h>

#include <memory>

#include "lattice/data/row_kind.hpp"
#include "lattice/learning/worked_answers.hpp"
#include "lattice/show/charts.hpp"
#include "lattice/show/shown_subject.hpp"
#include "lattice/text/error.hpp"
#include "lattice/text/letters.hpp"
#include "lattice/text/numbers.hpp"
#include "lattice/worksheet/watch.hpp"
#include "tools/answer_options.hpp"
#include "tools/ask_seeds.hpp"
#include "tools/commands.hpp"
#include "tools/options.hpp"
#include "tools/questions.hpp"
#include "tools/records.hpp"

namespace lattice::tools {
namespace {

struct AskAsked {
  QuestionsAsked questions = {};
  std::optional<std::int64_t> seeds = std::nullopt;
  std::string draw;
  bool brief = false;
  int digits = usual_digits;
  bool json = false;
};

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
  const ModelFile file = load_model(asked.questions.model);
  const Model& model = file.model;
  const Questions questions = questions_in(asked.questions, file, console);
  check_outputs({{"--draw", asked.draw}}, asked.questions.inputs(), console);
  Answers answers = model.rows ? ask_rows(model, questions.rows) : ask(model, questions.raw);
  if (!questions.names.empty()) answers.names = questions.names;
  if (!model.rows) say(remarks_on(model, questions.raw), file.lesson, console);
  const std::optional<AnswersOverSeeds> over_seeds =
      asked.seeds
          ? std::optional(answers_over_seeds(file, questions, answers, *asked.seeds, console))
          : std::nullopt;
  const bool all_have_one = say_what_has_no_answer(model, answers, questions, console);
  if (!asked.draw.empty()) {
    answers_chart(fmt::format("{}: what {} says", file.data_name, asked.questions.model), model,
                  answers)
        .write(asked.draw);
  }
  if (asked.json) {
    Json json = {{"model", asked.questions.model},
                 {"answers", answers_json(model, answers, questions.files, questions.truth)}};
    const AnswersTally tally = tally_of(model, answers, questions.truth);
    for (const auto& [count, of] : tally.by_class)
      json["tally"][model.class_names[of]] = count;
    if (tally.with_truth > 0) {
      json["right"] = tally.right;
      json["with_truth"] = tally.with_truth;
    }
    if (over_seeds) json["over_seeds"] = to_json(*over_seeds, model);
    write(console.out, json);
    if (!all_have_one) throw AnswerIsNo{};
    return;
  }
  TerminalStyle style = console.style;
  style.digits = asked.digits;
  const QuestionKind* const kind = question_for(model);
  if (kind != nullptr && kind->show != nullptr)
    console.out << kind->show(questions.raw, model, answers, style);
  console.out << show_answers(
      model, answers, style,
      {.truth = questions.truth, .brief = asked.brief, .records = questions.records});
  if (over_seeds) console.out << "\n" << told(*over_seeds, model, answers, style);
  if (!asked.draw.empty()) console.print_line(written(asked.draw));
  if (!all_have_one) throw AnswerIsNo{};
}

void declare_ask(Verb& verb, Console& console) {
  auto asked = std::make_shared<AskAsked>();
  QuestionsAsked& questions = asked->questions;
  verb.text("model", questions.model, "A model file, as train --save writes it", "TEXT",
            {.required = true});
  for (const ShownSubject& subject : shown_subjects()) {
    if (!subject.question) continue;
    const QuestionKind& kind = *subject.question;
    verb.texts(kind.option, questions.others[&kind], kind.sentence, kind.type);
  }
  verb.texts(
      "--record", questions.records,
      "A record: thickness=4.1,hours=30, or 4.1,30 in the order of the columns; may be repeated",
      "NAME=VALUE,…");
  verb.file("--file", questions.file,
            "Records in a CSV file with the same columns; or pictures, IDX or NPY. If it has the "
            "target, the truth is shown beside the answers",
            "PATH");
  declare_rows(verb, questions.rows);
  verb.read(
      "--seeds",
      [asked](const std::string& text) { asked->seeds = whole_number("--seeds", text, 2, 1'000); },
      "Train the lesson of the model with N seeds, and show how much the answers differ", "N");
  verb.flag("--brief", asked->brief, "Answers alone, without the share of every class");
  declare_printing(verb, asked->digits, asked->json);
  verb.file("--draw", asked->draw, "Draw the probabilities as bars: .svg or .png", "FILE");
  verb.runs([asked, &console] { ask_model(*asked, console); });
}

}  // namespace

Verb ask_verb(Console& console) {
  return {"ask", "Ask a model about new records, in raw units", console, declare_ask};
}

}  // namespace lattice::tools
