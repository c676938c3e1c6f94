#include "tools/answer_options.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <limits>
#include <utility>

#include "lattice/judging/assess.hpp"
#include "lattice/text/error.hpp"
#include "lattice/text/nearest.hpp"
#include "text/counted.hpp"
#include "tools/records.hpp"
#include "tools/run_lesson.hpp"

namespace lattice::tools {
namespace {

std::string rows_in_words(const std::vector<std::int64_t>& rows) {
  return fmt::format("{} {}", rows.size() == 1 ? "row" : "rows", fmt::join(rows, ", "));
}

/// The parts that rows were dealt out to: `train part`.
std::string parts_of(const Split& split, const std::vector<std::int64_t>& rows) {
  std::vector<std::string> parts;
  for (const DataPart part : all_data_parts) {
    const std::vector<std::int64_t>& in_part = split[part].rows();
    const bool has_some = std::ranges::any_of(
        rows, [&](std::int64_t row) { return std::ranges::find(in_part, row) != in_part.end(); });
    if (has_some) parts.emplace_back(word(part));
  }
  return fmt::format("{} {}", fmt::join(parts, " and "), parts.size() == 1 ? "part" : "parts");
}

/// The options of subjects, for a message: `--node, `.
std::string options_of_subjects() {
  std::string all;
  for (const ShownSubject& subject : shown_subjects()) {
    if (subject.question && subject.question->is_worked) all += subject.question->option + ", ";
  }
  return all;
}

}  // namespace

void declare_rows(Verb& verb, std::vector<std::int64_t>& rows) {
  verb.read(
      "--row",
      [&rows](const std::string& text) {
        rows.clear();
        for (const std::string& each : parse_csv_record(text))
          rows.push_back(whole_number("--row", each, 0, std::numeric_limits<std::int64_t>::max()));
      },
      "Rows of its data by their numbers, from 0: 17, or 3,17", "N,…");
}

void AnswerOptions::declare(Verb& verb) {
  verb.heading("Answers of a model");
  verb.texts("--record", records_,
             "A record: thickness=4.1,hours=30, or 4.1,30 in the order of the columns; may be "
             "repeated",
             "NAME=VALUE,…");
  declare_rows(verb, rows_);
  for (const ShownSubject& subject : shown_subjects()) {
    if (!subject.question || !subject.question->is_worked) continue;
    const QuestionKind& kind = *subject.question;
    verb.texts(kind.option, others_[&kind], kind.sentence, kind.type);
  }
  verb.read(
      "--wrong",
      [this](const std::string& text) { wrong_ = whole_number("--wrong", text, 1, 1'000); },
      "The N rows with the highest loss among the wrong ones, or the largest error", "N");
  verb.text("--part", part_, "The part to search for them (default: the last part that has rows)",
            "PART", {.needs = "--wrong"});
  verb.text("--of", of_, "Class or target to sweep back from (default: the answer)", "NAME");
}

const QuestionKind* AnswerOptions::asked_kind() const {
  for (const auto& [kind, texts] : others_) {
    if (!texts.empty()) return kind;
  }
  return nullptr;
}

bool AnswerOptions::names_model(const LessonOptions& options) const {
  const bool is_model = is_model_file(options.subject);
  if (is_asked() && !is_model) {
    throw SettingError({.what = "--record and --row need a trained model",
                        .expected = "a model file, as train --save writes it",
                        .found = options.subject.empty() ? "nothing" : options.subject,
                        .remedy = "lattice train glazes --save glazes.lattice"});
  }
  if (!is_model) return false;
  if (static_cast<int>(!records_.empty()) + static_cast<int>(!rows_.empty()) +
          static_cast<int>(asked_kind() != nullptr) + static_cast<int>(wrong_.has_value()) !=
      1) {
    throw SettingError(
        {.what = fmt::format("{} needs exactly one kind of question", options.subject),
         .expected = fmt::format("one of --record, --row, {}--wrong", options_of_subjects()),
         .found = is_asked() ? "several of them" : "none of them",
         .remedy = "--wrong 1"});
  }
  options.check_for(options.subject, {"file", "labels"});
  const bool asks_for_rows = !rows_.empty() || wrong_.has_value();
  if (!options.file_rows().files.empty() && !asks_for_rows) {
    throw SettingError({.what = "--file needs rows of it",
                        .expected = "--row or --wrong with it",
                        .found = "another question",
                        .remedy = "--row 0"});
  }
  return true;
}

std::vector<std::int64_t> worst_rows(const Model& model, const RowSet& part,
                                     const std::string& name, std::int64_t most) {
  const std::vector<JudgedRow> wrong = rows_got_wrong(model.network, model.loss, part, most);
  if (wrong.empty()) {
    throw SettingError({.what = "there is no row to show",
                        .expected = fmt::format("a row of {} with a wrong answer", name),
                        .found = counted(part.count(), "row") + ", all right",
                        .remedy = "another --part, or --row"});
  }
  std::vector<std::int64_t> rows(wrong.size());
  std::ranges::transform(wrong, rows.begin(), &JudgedRow::row);
  return rows;
}

Batch AnswerOptions::batch(const ModelFile& file, const FileRows& of_files, std::string& about,
                           Console& console) const {
  const QuestionKind* const kind = asked_kind();
  check_fits(file.model, kind == nullptr ? std::vector<const QuestionKind*>() : std::vector{kind},
             !records_.empty());
  if (kind != nullptr) {
    const std::vector<std::string>& texts = others_.at(kind);
    about = fmt::format("{}", fmt::join(texts, ", "));
    const Dataset rows = file.model.rows->in(file.model.network.precision());
    return RowSet(rows).at(kind->read(file, texts).rows);
  }
  if (!records_.empty()) {
    about = records_.size() == 1 ? "a record" : fmt::format("{} records", records_.size());
    const Table table = records_table(records_, file.model);
    const Tensor features = features_from(table, file.model.columns);
    return {.rows = {}, .features = features.in(file.model.network.precision())};
  }
  const bool are_own = of_files.files.empty();
  const Prepared prepared = are_own ? prepared_again(file, "to ask about others: --record", console)
                                    : prepared_on_files(file, of_files, console);
  std::vector<std::int64_t> rows = rows_;
  if (wrong_) {
    const DataPart part =
        part_.empty() ? last_part(prepared.split) : part_called(prepared.split, part_);
    const std::string name =
        are_own ? fmt::format("the {} part", word(part)) : prepared.data().name;
    rows = worst_rows(file.model, prepared.split[part], name, *wrong_);
    about = "got wrong: ";
  }
  const std::int64_t count = prepared.data().rows();
  for (const std::int64_t row : rows) {
    if (row < count) continue;
    throw SettingError({.what = fmt::format("{} has no row {}", prepared.data().name, row),
                        .expected = fmt::format("0 to {}", count - 1),
                        .found = fmt::format("--row {}", row)});
  }
  about += fmt::format("{} of {}", rows_in_words(rows), prepared.data().name);
  if (are_own) about += ", " + parts_of(prepared.split, rows);
  return RowSet(prepared.data()).at(rows);
}

std::optional<std::int64_t> AnswerOptions::of(const Model& model) const {
  if (of_.empty()) return std::nullopt;
  const bool has_classes = !model.class_names.empty();
  const std::vector<std::string>& names = has_classes ? model.class_names : model.target_names;
  const auto found = std::ranges::find(names, of_);
  if (found != names.end()) return found - names.begin();
  throw NameError(
      not_among(fmt::format("the model knows no {} '{}'", has_classes ? "class" : "target", of_),
                of_, names));
}

AskedAnswers AnswerOptions::work(const LessonOptions& options, Console& console) const {
  const std::string& path = options.subject;
  AskedAnswers answers{.file = load_model(path), .example = {}};
  const ModelFile& file = answers.file;
  const Model& model = file.model;
  std::string about;
  const FileRows rows = options.file_rows();
  const Batch measured = batch(file, rows, about, console);
  answers.example.names = {
      .features = feature_names_of(model.columns),
      .targets = model.target_names,
      .classes = model.class_names,
      .nodes = model.rows ? model.rows->row_names : std::vector<std::string>()};
  answers.example.title = fmt::format("{}: {}", file.data_name, about);
  answers.example.about = {
      path, model.network.blueprint(),
      fmt::format("trained on {}, {}", file.data_name, counted(file.run.updates, "update"))};
  answers.example.steps.push_back(
      {.step = 0, .epoch = 0, .work = work_answers(model, measured, of(model))});
  const Shape& shape = measured.features.shape();
  if (shape.rank() == 2 && shape[0] == 1)
    answers.influences = influences(model, answers.example.steps.front().work);
  return answers;
}

Json influences_json(const AskedAnswers& answers) {
  Json list = Json::array();
  const std::vector<std::string>& names = answers.example.names.features;
  for (std::size_t at = 0; at < answers.influences.size(); ++at) {
    const Influence& influence = answers.influences[at];
    Json entry = {{"feature", names[at]}, {"value", influence.value}, {"slope", influence.slope}};
    if (influence.turn) {
      entry["turn"] = *influence.turn;
      entry["becomes"] =
          answers.file.model.class_names[static_cast<std::size_t>(influence.becomes.value())];
    }
    list.push_back(std::move(entry));
  }
  return list;
}

}  // namespace lattice::tools
