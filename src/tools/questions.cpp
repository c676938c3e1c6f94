#include "tools/questions.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <optional>

#include "lattice/files/csv.hpp"
#include "lattice/learning/remarks.hpp"
#include "lattice/text/error.hpp"
#include "lattice/text/letters.hpp"
#include "text/typed.hpp"
#include "tools/options.hpp"
#include "tools/records.hpp"
#include "tools/run_lesson.hpp"

namespace lattice::tools {

std::vector<const QuestionKind*> QuestionsAsked::kinds() const {
  std::vector<const QuestionKind*> asked;
  for (const auto& [kind, texts] : others) {
    if (!texts.empty()) asked.push_back(kind);
  }
  return asked;
}

std::vector<std::string> QuestionsAsked::inputs() const {
  std::vector<std::string> inputs = {model, file};
  for (const auto& [kind, texts] : others) {
    if (kind->holds != nullptr) inputs.insert(inputs.end(), texts.begin(), texts.end());
  }
  return inputs;
}

namespace {

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
  for (const FieldRows::Row row : table.rows) {
    for (const std::size_t column : columns) {
      const std::string field(trimmed(row[column]));
      truth.push_back(is_missing(field) ? "" : class_called(model, field));
    }
  }
  return truth;
}

/// Refuses no question, and several at once.
void check_is_one(const QuestionsAsked& asked, const Model& model) {
  const QuestionKind* const own = question_for(model);
  const auto ways = std::ssize(asked.kinds()) + (asked.records.empty() ? 0 : 1) +
                    (asked.file.empty() ? 0 : 1) + (asked.rows.empty() ? 0 : 1);
  const bool takes_records = !model.columns.empty();
  if (ways == 1 && (asked.records.empty() || takes_records)) return;
  const auto remedy = [&] {
    if (model.rows) return typed_flag(own->option, model.rows->row_name(0));
    if (own != nullptr) return fmt::format("lattice ask {} {}", typed(asked.model), own->example);
    return typed_flag("--record", fmt::format("{}=…", fmt::join(feature_columns(model), "=…,")));
  };
  throw SettingError({.what = fmt::format("{} needs exactly one kind of question", asked.model),
                      .expected = own == nullptr ? "one of --record, --file and --row"
                                  : own->holds == nullptr
                                      ? fmt::format("{}, {} {}", own->thing, own->option, own->type)
                                      : fmt::format("{}, or --file, or --row", own->thing),
                      .found = ways == 0   ? "none"
                               : ways == 1 ? "--record"
                                           : "several of them",
                      .remedy = remedy()});
}

/// Each record of a table in words, without its truth.
std::vector<std::string> records_in_words(const Table& table, const Model& model) {
  const std::vector<std::string> names = feature_columns(model);
  std::vector<std::string> records;
  for (const FieldRows::Row row : table.rows) {
    std::vector<std::string> words;
    for (const std::string& name : names) {
      const auto found = std::ranges::find(table.header, name);
      if (found == table.header.end()) continue;
      const auto column = static_cast<std::size_t>(found - table.header.begin());
      words.push_back(fmt::format("{} {}", name, trimmed(row[column])));
    }
    records.push_back(fmt::format("{}", fmt::join(words, ", ")));
  }
  return records;
}

/// The records of a table as questions, with their truth if it has the columns of the targets.
Questions questions_on(const Table& table, const Model& model) {
  return {.raw = examples_from(model, table),
          .truth = truth_in(table, model),
          .records = records_in_words(table, model)};
}

/// Rows of the data of a model.
Questions questions_on_rows(const QuestionsAsked& asked, const ModelFile& file,
                            const Console& console) {
  if (file.model.rows) return {.rows = asked.rows};
  const Prepared prepared = prepared_again(file, "ask about records of a file: --file", console);
  const Dataset rows = prepared.data().taking(asked.rows).as_measured();
  Questions questions;
  if (rows.is_table()) {
    questions = questions_on(table_of(rows), file.model);
  } else {
    questions.raw = rows.features;
    for (std::int64_t row = 0; row < rows.rows(); ++row) {
      const bool is_known = rows.has_classes() && rows.has_truth(row);
      questions.truth.push_back(
          is_known ? rows.class_name(static_cast<std::int64_t>(rows.classes.at({row}))) : "");
    }
  }
  for (std::size_t at = 0; at < asked.rows.size(); ++at) {
    questions.names.push_back(rows.row_names.empty()
                                  ? fmt::format("row {}", asked.rows[at])
                                  : rows.row_name(static_cast<std::int64_t>(at)));
  }
  return questions;
}

}  // namespace

Questions questions_in(const QuestionsAsked& asked, const ModelFile& file, Console& console) {
  const Model& model = file.model;
  const QuestionKind* const own = question_for(model);
  check_fits(model, asked.kinds(), !asked.records.empty() || !asked.file.empty());
  check_is_one(asked, model);
  if (!asked.rows.empty()) return questions_on_rows(asked, file, console);
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
  return questions_on(table, model);
}

}  // namespace lattice::tools
