#include "files/json_records.hpp"

#include <fmt/format.h>

#include <map>
#include <nlohmann/json.hpp>

#include "lattice/files/json.hpp"
#include "lattice/text/error.hpp"
#include "lattice/text/letters.hpp"

namespace lattice {
namespace {

constexpr std::string_view what_records_are =
    R"(a list of objects, such as [{"hours": 30, "state": "sound"}])";

/// A value as a table has it, as text; empty for none.
std::string field_of(const Json& value, const std::string& column, const std::string& place) {
  std::string text = value.is_null()     ? std::string()
                     : value.is_string() ? value.get<std::string>()
                                         : json_text(value);
  if (value.is_structured() || unwelcome_in(text)) {
    throw FileError({.what = "a record has a field that cannot be used",
                     .where = fmt::format("{}, column '{}'", place, column),
                     .expected = "a number, a word, true or false; or null for a missing value",
                     .found = value.is_array()    ? "a list"
                              : value.is_object() ? "an object"
                                                  : fmt::format("'{}'", text)});
  }
  return text;
}

}  // namespace

Table parse_records(std::string_view text, const std::string& name) {
  Json records;
  try {
    records = parse_json(text);
  } catch (const FileError& error) {
    Trouble trouble = error.trouble();
    trouble.what = fmt::format("{} is not JSON", name);
    throw FileError(trouble);
  }
  if (!records.is_array()) {
    throw FileError({.what = fmt::format("{} does not hold records", name),
                     .expected = std::string(what_records_are),
                     .found = records.is_object() ? "one object" : "one value"});
  }
  Table table{.name = name, .header = {}, .rows = {}};
  std::map<std::string, std::size_t> place_of;
  for (const Json& record : records) {
    table.sources.push_back({.file = name, .row = table.rows.size() + 1});
    const std::string place = table.place(table.rows.size());
    if (!record.is_object()) {
      throw FileError({.what = fmt::format("{} does not hold records", name),
                       .where = place,
                       .expected = std::string(what_records_are),
                       .found = record.is_array() ? "a list" : json_text(record)});
    }
    std::vector<std::string> row(table.header.size());
    for (const auto& [column, value] : record.items()) {
      const auto [known, is_new] = place_of.emplace(column, table.header.size());
      if (is_new) {
        if (unwelcome_in(column)) static_cast<void>(field_of(Json(column), column, place));
        table.header.push_back(column);
        row.emplace_back();
      }
      row[known->second] = field_of(value, column, place);
    }
    table.rows.push_back(std::move(row));
  }
  if (table.header.empty()) {
    throw FileError({.what = fmt::format("{} has no records", name),
                     .expected = std::string(what_records_are),
                     .found = table.rows.empty() ? "an empty list" : "objects without fields"});
  }
  for (std::vector<std::string>& row : table.rows)
    row.resize(table.header.size());
  return table;
}

}  // namespace lattice
