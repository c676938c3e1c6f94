#include "tools/records.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <filesystem>
#include <optional>
#include <utility>

#include "lattice/data/row_kind.hpp"
#include "lattice/files/csv.hpp"
#include "lattice/text/error.hpp"
#include "lattice/text/letters.hpp"
#include "lattice/text/nearest.hpp"
#include "text/typed.hpp"

namespace lattice::tools {

std::vector<std::string> feature_columns(const Model& model) {
  std::vector<std::string> names;
  for (const Column& column : model.columns)
    names.push_back(column.name);
  return names;
}

Table records_table(const std::vector<std::string>& records, const Model& model) {
  const std::vector<std::string> names = feature_columns(model);
  Table table{.name = "--record", .header = names, .rows = {}};
  for (const std::string& record : records) {
    std::vector<std::optional<std::string>> fields(names.size());
    const std::vector<std::string> texts = parse_csv_record(record);
    if (record.find('=') == std::string::npos && texts.size() == names.size()) {
      table.rows.push_back(texts);
      continue;
    }
    for (const std::string& text : texts) {
      const std::size_t equals = text.find('=');
      const std::string name(trimmed(text.substr(0, std::min(equals, text.size()))));
      const auto found = std::ranges::find(names, name);
      if (equals == std::string::npos || found == names.end()) {
        const std::string near = nearest(name, names);
        throw NameError(
            {.what = equals == std::string::npos
                         ? fmt::format("'{}' does not say which feature it is", text)
                         : fmt::format("the model knows no feature '{}'", name),
             .where = "--record " + record,
             .expected = fmt::format("{}=…; or all {} values in this order",
                                     fmt::join(names, "=…,"), names.size()),
             .found = fmt::format("'{}'", text),
             .remedy = near.empty() || equals == std::string::npos ? "" : did_you_mean(near)});
      }
      auto& field = fields[static_cast<std::size_t>(found - names.begin())];
      if (field) {
        throw NameError({.what = fmt::format("the feature '{}' is given twice", name),
                         .where = "--record " + record,
                         .expected = "each feature once"});
      }
      field = text.substr(equals + 1);
    }
    std::vector<std::string> row;
    for (std::size_t at = 0; at < names.size(); ++at) {
      if (!fields[at]) {
        throw NameError(
            {.what = fmt::format("a feature is missing: {}", names[at]),
             .where = "--record " + record,
             .expected = fmt::format("{}", fmt::join(names, ", ")),
             .remedy = "give every feature in its own unit: it is scaled as in training"});
      }
      row.push_back(*fields[at]);
    }
    table.rows.push_back(row);
  }
  return table;
}

const QuestionKind* question_for(const Model& model) {
  for (const ShownSubject& subject : shown_subjects()) {
    if (subject.question && subject.question->fits(model)) return &*subject.question;
  }
  return nullptr;
}

void check_fits(const Model& model, const std::vector<const QuestionKind*>& others,
                bool with_records) {
  const QuestionKind* const own = question_for(model);
  for (const QuestionKind* const other : others) {
    if (other == own) continue;
    throw SettingError(
        {.what = fmt::format("this model is not asked about {}", other->thing),
         .expected = own == nullptr ? "records" : own->thing,
         .found = other->thing,
         .remedy = own == nullptr ? "--record, or --file with a table" : own->example});
  }
  if (!with_records || !model.rows) return;
  const std::string name = model.rows->row_name(0);
  throw SettingError({.what = fmt::format("a model of a {} answers only for its {}",
                                          kind_of(*model.rows).name, kind_of(*model.rows).several),
                      .expected = fmt::format("{}, by name", own->thing),
                      .found = "records that are connected with nothing",
                      .remedy = typed_flag(own->option, name)});
}

}  // namespace lattice::tools
