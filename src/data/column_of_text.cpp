#include "data/column_of_text.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <charconv>
#include <cmath>
#include <optional>
#include <set>

#include "lattice/text/nearest.hpp"
#include "lattice/text/numbers.hpp"

namespace lattice {
namespace {

/// Whether a text is a number; one of digits with a point among them is not worked out for that.
bool is_number(std::string_view text) {
  const auto is_digit = [](char letter) { return letter >= '0' && letter <= '9'; };
  const std::ptrdiff_t sign = text.starts_with('-') ? 1 : 0;
  const auto whole = std::find_if_not(text.begin() + sign, text.end(), is_digit);
  if (whole - text.begin() > sign && whole != text.end() && *whole == '.' &&
      std::all_of(whole + 1, text.end(), is_digit))
    return true;
  return parse_number(text).has_value();
}

}  // namespace

bool ColumnOfText::is_of_numbers() const {
  std::size_t filled = 0;
  std::size_t numbers = 0;
  for (std::size_t row = 0; row < rows(); ++row) {
    if (is_missing_at(row)) continue;
    ++filled;
    if (is_number(field(row))) ++numbers;
    if (2 * numbers >= rows()) return true;
  }
  return 2 * numbers >= filled;
}

std::vector<std::string> ColumnOfText::words() const {
  std::set<std::string> words;
  for (std::size_t row = 0; row < rows(); ++row) {
    if (!is_missing_at(row)) words.emplace(field(row));
  }
  return {words.begin(), words.end()};
}

double ColumnOfText::number(std::size_t row) const {
  const std::optional<double> number = parse_number(field(row));
  if (number && std::isfinite(*number)) return *number;
  Trouble trouble = refusal(row);
  trouble.what = fmt::format("'{}' cannot be used as a number", field(row));
  trouble.expected = "a finite number with a decimal point, such as 4.5";
  if (number) {
    trouble.remedy = "an infinity makes every sum that contains it infinite: fix or drop the row";
  } else if (field(row).find(',') != std::string_view::npos) {
    trouble.remedy = "write the decimal sign as a point";
  } else {
    trouble.remedy =
        "the rest of the column holds numbers: mend the field, or leave it empty and "
        "drop rows with missing values";
  }
  throw FileError(trouble);
}

std::size_t ColumnOfText::place_of_word(std::size_t row,
                                        const std::vector<std::string>& words) const {
  const auto found = std::ranges::find(words, field(row));
  if (found != words.end()) return static_cast<std::size_t>(found - words.begin());
  Trouble trouble = refusal(row);
  trouble.what = fmt::format("'{}' was never seen in this column", field(row));
  trouble.expected = fmt::format("one of {}", fmt::join(words, ", "));
  if (const std::string near = nearest(field(row), words); !near.empty())
    trouble.remedy = did_you_mean(near);
  throw FileError(trouble);
}

void ColumnOfText::refuse_missing(std::size_t row) const {
  Trouble trouble = refusal(row);
  trouble.what = "a value is missing";
  trouble.expected = "a value in every field that is used";
  trouble.remedy = "fill it in, or drop such rows";
  trouble.advice = {"missing", "drop"};
  throw FileError(trouble);
}

Trouble ColumnOfText::refusal(std::size_t row) const {
  return {.what = "",
          .where = fmt::format("{}, column '{}'", table_->place(row), name()),
          .found = field(row).empty() ? "an empty field" : fmt::format("'{}'", field(row))};
}

std::size_t find_column(const Table& table, const std::string& name, std::string_view setting) {
  const auto count = std::ranges::count(table.header, name);
  if (count == 1) {
    return static_cast<std::size_t>(std::ranges::find(table.header, name) - table.header.begin());
  }
  if (count > 1) {
    throw NameError({.what = fmt::format("{} columns are called '{}'", count, name),
                     .where = table.name,
                     .expected = "a different name for each column",
                     .remedy = "call it by its position, such as 1 for the first"});
  }
  std::size_t position = 0;
  const auto [stop, problem] = std::from_chars(name.data(), name.data() + name.size(), position);
  if (problem == std::errc() && stop == name.data() + name.size() && position >= 1 &&
      position <= table.header.size()) {
    return position - 1;
  }
  Trouble trouble{.what = fmt::format("there is no column '{}' in {}", name, table.name),
                  .expected = fmt::format("one of {}, or a position from 1 to {}",
                                          fmt::join(table.header, ", "), table.header.size()),
                  .found = fmt::format("'{}'", name)};
  if (name.empty()) {
    trouble.what = fmt::format("which column of {} is the target?", table.name);
    trouble.found = "no name";
    trouble.remedy = "name the column";
    trouble.advice = {std::string(setting), table.header.back()};
  } else if (const std::string near = nearest(name, table.header); !near.empty()) {
    trouble.remedy = did_you_mean(near);
    trouble.advice = {std::string(setting), near};
  }
  throw NameError(trouble);
}

void check_names_differ(const Table& table) {
  std::set<std::string_view> names;
  for (const std::string& name : table.header) {
    if (!names.insert(name).second) find_column(table, name, "");
  }
}

}  // namespace lattice
