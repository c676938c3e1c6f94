#include "lattice/data/table.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <array>
#include <cctype>

#include "data/column_of_text.hpp"
#include "lattice/text/error.hpp"
#include "lattice/text/letters.hpp"

namespace lattice {
namespace {

/// Where in another table the columns of a first one are.
std::vector<std::size_t> places_of(const Table& first, const Table& other) {
  std::vector<std::size_t> places;
  if (first.header != other.header) check_names_differ(first);
  for (std::size_t column = 0; column < first.header.size(); ++column) {
    const auto found = first.header == other.header
                           ? other.header.begin() + static_cast<std::ptrdiff_t>(column)
                           : std::ranges::find(other.header, first.header[column]);
    if (found == other.header.end() || first.header.size() != other.header.size()) {
      throw FileError({.what = fmt::format("{} has other columns than {}", other.name, first.name),
                       .expected = fmt::format("{}", fmt::join(first.header, ", ")),
                       .found = fmt::format("{}", fmt::join(other.header, ", ")),
                       .remedy = "files that are read as one have the same columns"});
    }
    places.push_back(static_cast<std::size_t>(found - other.header.begin()));
  }
  return places;
}

}  // namespace

bool is_missing(std::string_view field) {
  constexpr std::array<std::string_view, 6> words = {"", "?", "na", "n/a", "nan", "null"};
  constexpr std::size_t longest = 4;
  field = trimmed(field);
  if (field.size() > longest) return false;
  std::string lower(field);
  std::ranges::transform(lower, lower.begin(), [](unsigned char c) { return std::tolower(c); });
  return std::ranges::find(words, lower) != words.end();
}

std::string Table::place(std::size_t row) const {
  if (row >= sources.size()) return fmt::format("{}, row {}", name, row + 1);
  const RowSources::Source source = sources[row];
  const std::string line =
      source.line > 0 ? fmt::format(" (line {} of the file)", source.line) : std::string();
  return fmt::format("{}, row {}{}", source.file, source.row, line);
}

namespace {

/// Says of each row where it comes from.
void name_sources(Table& table) {
  for (std::size_t row = table.sources.size(); row < table.rows.size(); ++row)
    table.sources.add({.file = table.name, .row = row + 1});
}

}  // namespace

Table with_part(Table table, DataPart part, Table rows) {
  name_sources(rows);
  rows.sources.set_part(part);
  const std::string name = table.name;
  std::vector<Table> both;
  both.push_back(std::move(table));
  both.push_back(std::move(rows));
  Table all = appended(std::move(both));
  all.name = name;
  return all;
}

Table appended(std::vector<Table> tables) {
  if (tables.empty()) throw SettingError({.what = "no table", .expected = "one or more"});
  for (Table& table : tables)
    name_sources(table);
  Table all = std::move(tables.front());
  for (std::size_t at = 1; at < tables.size(); ++at) {
    Table& more = tables[at];
    const std::vector<std::size_t> places = places_of(all, more);
    for (std::size_t row = 0; row < more.rows.size(); ++row) {
      for (const std::size_t place : places)
        all.rows.add_field(more.rows[row][place]);
      all.rows.end_row();
      all.sources.add(more.sources[row]);
    }
    for (Table::DecimalCommas& commas : more.decimal_commas) {
      if (std::ranges::find(all.decimal_commas, commas.column, &Table::DecimalCommas::column) ==
          all.decimal_commas.end())
        all.decimal_commas.push_back(std::move(commas));
    }
  }
  if (tables.size() == 2) all.name += " and " + tables[1].name;
  if (tables.size() > 2) all.name += fmt::format(" and {} more", tables.size() - 1);
  return all;
}

}  // namespace lattice
