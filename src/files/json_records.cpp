#include "files/json_records.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <map>
#include <nlohmann/json.hpp>
#include <utility>
#include <vector>

#include "lattice/files/json.hpp"
#include "lattice/text/error.hpp"
#include "lattice/text/letters.hpp"
#include "lattice/text/nearest.hpp"

namespace lattice {
namespace {

constexpr std::string_view what_records_are =
    R"(a list of objects, such as [{"hours": 30, "state": "sound"}], or one under a key)";

/// The lists of objects under the keys of an object.
std::vector<std::string> lists_in(const Json& document) {
  std::vector<std::string> keys;
  if (!document.is_object()) return keys;
  for (const auto& [key, value] : document.items()) {
    if (value.is_array() && !value.empty() && value.front().is_object()) keys.push_back(key);
  }
  return keys;
}

/// What stands under a key, or at the end of a way: `readings`, `kiln.readings`.
/// @throws NameError that lists the keys where it ends.
Json under(Json document, const std::string& way, const std::string& name) {
  for (std::string left = way; !left.empty();) {
    std::string key = left;
    if (!document.is_object() || !document.contains(key)) key = left.substr(0, left.find('.'));
    if (!document.is_object() || !document.contains(key)) {
      std::vector<std::string> keys;
      if (document.is_object()) {
        for (const auto& [known, value] : document.items())
          keys.push_back(known);
      }
      throw NameError(not_among(fmt::format("{} has no list under '{}'", name, way), key, keys));
    }
    left = key.size() < left.size() ? left.substr(key.size() + 1) : "";
    Json inner = std::move(document[key]);
    document = std::move(inner);
  }
  return document;
}

/// The list of records in a document: itself, or the only list of objects under a key.
/// @throws FileError for none, and for several.
Json list_of_records(Json document, const std::string& name) {
  if (document.is_array()) return document;
  const std::vector<std::string> keys = lists_in(document);
  if (keys.size() == 1) return std::move(document[keys.front()]);
  throw FileError({.what = fmt::format("{} does not hold records", name),
                   .expected = std::string(what_records_are),
                   .found = keys.size() > 1
                                ? fmt::format("lists of objects under {}", fmt::join(keys, ", "))
                            : document.is_object() ? "one object without a list of objects"
                                                   : "one value",
                   .remedy = keys.empty() ? "" : "name one of them",
                   .advice = keys.empty() ? Advice() : Advice{"list", keys.front()}});
}

/// A value as a table has it, as text; empty for none.
/// @param place says where the record is
template <class Place>
std::string field_of(const Json& value, const std::string& column, const Place& place) {
  std::string text = value.is_null()     ? std::string()
                     : value.is_string() ? value.get<std::string>()
                                         : json_text(value);
  if (value.is_structured() || unwelcome_in(text)) {
    throw FileError({.what = "a record has a field that cannot be used",
                     .where = fmt::format("{}, column '{}'", place(), column),
                     .expected = "a number, a word, true or false; or null for a missing value",
                     .found = value.is_array()    ? "a list"
                              : value.is_object() ? "an object"
                                                  : fmt::format("'{}'", text)});
  }
  return text;
}

/// The columns of a table as they are met.
class KnownColumns {
 public:
  explicit KnownColumns(std::vector<std::string>& columns) : columns_(columns) {}

  /// Where a column is, which is added if it is new.
  /// @param likely where it is in most records, so that no name has to be looked up
  std::size_t place_of(const std::string& column, std::size_t likely) {
    if (likely < columns_.size() && columns_[likely] == column) return likely;
    const auto [known, is_new] = places_.emplace(column, columns_.size());
    if (is_new) columns_.push_back(column);
    return known->second;
  }

 private:
  std::vector<std::string>& columns_;
  std::map<std::string, std::size_t> places_ = {};
};

/// Rows of so many fields, where some have fewer.
FieldRows filled_up(const FieldRows& rows, std::size_t fields) {
  FieldRows filled;
  for (const FieldRows::Row& row : rows) {
    for (std::size_t at = 0; at < fields; ++at)
      filled.add_field(at < row.size() ? row[at] : std::string_view());
    filled.end_row();
  }
  return filled;
}

}  // namespace

Table parse_records(std::string_view text, const std::string& name, const std::string& list) {
  Json records;
  try {
    records = parse_json(text);
  } catch (const FileError& error) {
    Trouble trouble = error.trouble();
    trouble.what = fmt::format("{} is not JSON", name);
    throw FileError(trouble);
  }
  records = list_of_records(under(std::move(records), list, name), name);
  Table table{.name = name, .header = {}, .rows = {}};
  KnownColumns known(table.header);
  std::vector<std::string> row;
  for (const Json& record : records) {
    table.sources.add({.file = name, .row = table.rows.size() + 1});
    const auto place = [&] { return table.place(table.rows.size()); };
    if (!record.is_object()) {
      throw FileError({.what = fmt::format("{} does not hold records", name),
                       .where = place(),
                       .expected = std::string(what_records_are),
                       .found = record.is_array() ? "a list" : json_text(record)});
    }
    row.assign(table.header.size(), "");
    std::size_t likely = 0;
    for (const auto& [column, value] : record.items()) {
      const std::size_t at = known.place_of(column, likely);
      if (at == row.size()) {
        static_cast<void>(field_of(Json(column), column, place));
        row.emplace_back();
      }
      row[at] = field_of(value, column, place);
      likely = at + 1;
    }
    table.rows.push_back(row);
  }
  if (table.header.empty()) {
    throw FileError({.what = fmt::format("{} has no records", name),
                     .expected = std::string(what_records_are),
                     .found = table.rows.empty() ? "an empty list" : "objects without fields"});
  }
  // The header only grows: where the first row has all columns, all rows do.
  if (table.rows.front().size() < table.header.size())
    table.rows = filled_up(table.rows, table.header.size());
  return table;
}

}  // namespace lattice
