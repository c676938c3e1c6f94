#include "lattice/data/table.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <charconv>
#include <cmath>
#include <map>
#include <optional>
#include <set>

#include "lattice/tensor/error.hpp"
#include "lattice/tensor/numbers.hpp"
#include "lattice/tensor/text.hpp"

namespace lattice {
namespace {

/// The most different words in a column that somebody named.
constexpr std::size_t most_words_when_named = 200;

bool is_missing(std::string_view field) {
  constexpr std::array<std::string_view, 6> words = {"", "?", "na", "n/a", "nan", "null"};
  std::string lower(trimmed(field));
  std::ranges::transform(lower, lower.begin(), [](unsigned char c) { return std::tolower(c); });
  return std::ranges::find(words, lower) != words.end();
}

/// The number in a field, when it is a finite one.
std::optional<double> number_in(std::string_view field) {
  const std::optional<double> number = parse_number(field);
  return number && std::isfinite(*number) ? number : std::nullopt;
}

/// One column of a table, as far as its rows are in use.
class ColumnOfText {
 public:
  ColumnOfText(const Table& table, std::size_t column) : table_(&table), column_(column) {}

  [[nodiscard]] const std::string& name() const { return table_->header[column_]; }
  [[nodiscard]] std::size_t rows() const { return table_->rows.size(); }
  [[nodiscard]] std::string_view field(std::size_t row) const {
    return trimmed(table_->rows[row][column_]);
  }

  /// True when at least half of the fields that are filled hold numbers.
  [[nodiscard]] bool is_of_numbers() const {
    std::size_t filled = 0;
    std::size_t numbers = 0;
    for (std::size_t row = 0; row < rows(); ++row) {
      if (is_missing(field(row))) continue;
      ++filled;
      if (parse_number(field(row))) ++numbers;
    }
    return 2 * numbers >= filled;
  }

  [[nodiscard]] std::vector<std::string> words() const {
    std::set<std::string> words;
    for (std::size_t row = 0; row < rows(); ++row)
      words.emplace(field(row));
    return {words.begin(), words.end()};
  }

  [[nodiscard]] double number(std::size_t row) const {
    if (const std::optional<double> number = number_in(field(row))) return *number;
    Trouble trouble = refusal(row);
    trouble.what = fmt::format("'{}' cannot be used as a number", field(row));
    trouble.expected = "a finite number with a decimal point, such as 4.5";
    if (parse_number(field(row))) {
      trouble.remedy = "an infinity spreads to every sum it enters: mend or drop the row";
    } else if (field(row).find(',') != std::string_view::npos) {
      trouble.remedy = "write the decimal sign as a point";
    } else {
      trouble.remedy =
          "the rest of the column holds numbers: mend the field, or leave it empty and "
          "drop rows with missing values";
    }
    throw FileError(trouble);
  }

  [[nodiscard]] std::size_t place_of_word(std::size_t row,
                                          const std::vector<std::string>& words) const {
    const auto found = std::ranges::find(words, field(row));
    if (found != words.end()) return static_cast<std::size_t>(found - words.begin());
    Trouble trouble = refusal(row);
    trouble.what = fmt::format("'{}' was never seen in this column", field(row));
    trouble.expected = fmt::format("one of {}", fmt::join(words, ", "));
    if (const std::string near = nearest(field(row), words); !near.empty())
      trouble.remedy = fmt::format("did you mean {}?", near);
    throw FileError(trouble);
  }

  [[noreturn]] void refuse_missing(std::size_t row) const {
    Trouble trouble = refusal(row);
    trouble.what = "a value is missing";
    trouble.expected = "a value in every field that is learnt from";
    trouble.remedy = "fill it in, or drop such rows";
    trouble.advice = {"missing", "drop"};
    throw FileError(trouble);
  }

 private:
  [[nodiscard]] Trouble refusal(std::size_t row) const {
    const bool in_file = row < table_->lines.size();
    return {.what = "",
            .where = fmt::format(
                "{}, row {}{}, column '{}'", table_->name, row + 1,
                in_file ? fmt::format(" (line {} of the file)", table_->lines[row]) : "", name()),
            .found = field(row).empty() ? "an empty field" : fmt::format("'{}'", field(row))};
  }

  const Table* table_;
  std::size_t column_;
};

/// Finds a column by name, or by its position from 1.
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
    trouble.remedy = fmt::format("did you mean {}?", near);
    trouble.advice = {std::string(setting), near};
  }
  throw NameError(trouble);
}

/// Columns that are found by their names need different ones.
void check_names_differ(const Table& table) {
  std::set<std::string_view> names;
  for (const std::string& name : table.header) {
    if (!names.insert(name).second) find_column(table, name, "");
  }
}

/// The columns to learn from.
std::vector<std::size_t> feature_columns(const Table& table, const ColumnChoice& choice,
                                         std::size_t target, std::vector<std::string>& left_out) {
  std::vector<std::size_t> columns;
  for (const std::string& name : choice.features) {
    const std::size_t column = find_column(table, name, "features");
    if (column == target) {
      throw NameError({.what = fmt::format("'{}' is the target and a feature at once", name),
                       .expected = "features that are known before the target is",
                       .remedy = "leave it out of the features"});
    }
    if (std::ranges::find(columns, column) != columns.end()) {
      throw NameError({.what = fmt::format("the feature '{}' is named twice", name),
                       .expected = "each feature once"});
    }
    const ColumnOfText text(table, column);
    if (!text.is_of_numbers() && text.words().size() > most_words_when_named) {
      throw FileError({.what = fmt::format("the column '{}' holds too many different words", name),
                       .where = table.name,
                       .expected = fmt::format("at most {}", most_words_when_named),
                       .found = fmt::format("{}", text.words().size()),
                       .remedy = "leave it out of the features"});
    }
    columns.push_back(column);
  }
  if (!columns.empty()) return columns;
  check_names_differ(table);
  for (std::size_t column = 0; column < table.header.size(); ++column) {
    if (column == target) continue;
    const ColumnOfText text(table, column);
    if (!text.is_of_numbers() && text.words().size() > most_words) {
      left_out.push_back(table.header[column]);
    } else {
      columns.push_back(column);
    }
  }
  if (columns.empty()) {
    throw NameError(
        {.what = fmt::format("{} has no column to learn from", table.name),
         .expected = fmt::format("at least one column besides '{}'", table.header[target]),
         .found = fmt::format("{}", fmt::join(table.header, ", "))});
  }
  return columns;
}

/// The table without the rows in which one of these columns misses a value.
Table without_gaps(const Table& table, const std::vector<std::size_t>& columns, Missing missing) {
  Table whole{.name = table.name, .header = table.header, .rows = {}};
  for (std::size_t row = 0; row < table.rows.size(); ++row) {
    const auto gap = std::ranges::find_if(
        columns, [&](std::size_t column) { return is_missing(table.rows[row][column]); });
    if (gap != columns.end()) {
      if (missing == Missing::refused) ColumnOfText(table, *gap).refuse_missing(row);
      continue;
    }
    whole.rows.push_back(table.rows[row]);
    if (row < table.lines.size()) whole.lines.push_back(table.lines[row]);
  }
  if (whole.rows.empty()) {
    throw FileError({.what = fmt::format("no row of {} is left", table.name),
                     .expected = "at least one row without a missing value",
                     .found = fmt::format("{} rows, each with a gap", table.rows.size())});
  }
  return whole;
}

Tensor encoded(const Table& table, std::span<const std::size_t> places,
               std::span<const Column> columns) {
  std::size_t width = 0;
  for (const Column& column : columns)
    width += column.feature_count();
  const Shape shape{std::ssize(table.rows), static_cast<std::int64_t>(width)};
  std::vector<double> numbers(static_cast<std::size_t>(shape.count()), 0.0);
  std::size_t first = 0;
  for (std::size_t at = 0; at < columns.size(); ++at) {
    const ColumnOfText text(table, places[at]);
    for (std::size_t row = 0; row < table.rows.size(); ++row) {
      double* const place = &numbers[row * width + first];
      if (columns[at].words.empty()) {
        *place = text.number(row);
      } else {
        place[text.place_of_word(row, columns[at].words)] = 1.0;
      }
    }
    first += columns[at].feature_count();
  }
  return tensor(shape.with({Role::example, Role::feature}), numbers);
}

/// The different numbers of a column of numbers, in order, as they were first written.
std::map<double, std::string> kinds_of_numbers(const ColumnOfText& target) {
  std::map<double, std::string> kinds;
  for (std::size_t row = 0; row < target.rows(); ++row)
    kinds.emplace(target.number(row), target.field(row));
  return kinds;
}

bool are_classes(const std::map<double, std::string>& kinds, const ColumnChoice& choice) {
  if (choice.kind != TargetKind::automatic) return choice.kind == TargetKind::classes;
  if (kinds.size() == 2) {
    const double low = kinds.begin()->first;
    if (kinds.rbegin()->first == 1.0 && (low == 0.0 || low == -1.0)) return true;
  }
  return choice.outputs >= 2 && std::ssize(kinds) == choice.outputs &&
         std::ranges::all_of(kinds,
                             [](const auto& kind) { return std::rint(kind.first) == kind.first; });
}

void check_classes(const Dataset& data) {
  const std::string& target = data.target_name;
  if (data.class_count() == 1) {
    throw SettingError({.what = fmt::format("there is nothing to tell apart by '{}'", target),
                        .where = data.name,
                        .expected = "two classes or more",
                        .found = fmt::format("'{}' in every row", data.class_names.front())});
  }
  if (2 * data.class_count() > data.rows()) {
    throw SettingError(
        {.what = fmt::format("'{}' has too many classes to learn them", target),
         .where = data.name,
         .expected = fmt::format("at most {} classes in {} rows: two rows for each",
                                 data.rows() / 2, data.rows()),
         .found = fmt::format("{} classes", data.class_count()),
         .remedy = "choose another target: this one seems to give each row a name of its own"});
  }
}

void read_target(TableReading& reading, const ColumnOfText& target, const ColumnChoice& choice) {
  Dataset& data = reading.data;
  data.target_name = target.name();
  const auto rows = static_cast<std::int64_t>(target.rows());
  std::vector<double> truth;
  if (target.is_of_numbers() || choice.kind == TargetKind::numbers) {
    const std::map<double, std::string> kinds = kinds_of_numbers(target);
    std::map<double, double> number_of;
    const bool classes = are_classes(kinds, choice);
    if (classes) {
      for (const auto& [number, name] : kinds) {
        number_of.emplace(number, static_cast<double>(data.class_names.size()));
        data.class_names.push_back(name);
      }
      reading.whole_numbers_as_classes = choice.kind == TargetKind::automatic && kinds.size() > 2;
    }
    for (std::size_t row = 0; row < target.rows(); ++row)
      truth.push_back(classes ? number_of.at(target.number(row)) : target.number(row));
  } else {
    data.class_names = target.words();
    for (std::size_t row = 0; row < target.rows(); ++row)
      truth.push_back(static_cast<double>(target.place_of_word(row, data.class_names)));
  }
  if (data.class_names.empty()) {
    data.targets = tensor(Shape{rows, 1}.with({Role::example, Role::target}), truth);
  } else {
    data.classes = tensor(Shape{rows}.with({Role::example}), truth);
    check_classes(data);
  }
}

}  // namespace

TableReading dataset_from(const Table& table, const ColumnChoice& choice) {
  TableReading reading;
  const std::size_t target = find_column(table, choice.target, "target");
  const std::vector<std::size_t> places = feature_columns(table, choice, target, reading.left_out);
  std::vector<std::size_t> in_use = places;
  in_use.push_back(target);
  const Table whole = without_gaps(table, in_use, choice.missing);
  reading.rows_dropped = std::ssize(table.rows) - std::ssize(whole.rows);

  Dataset& data = reading.data;
  data.name = table.name;
  for (const std::size_t place : places) {
    const ColumnOfText text(whole, place);
    data.columns.push_back(
        {.name = text.name(),
         .words = text.is_of_numbers() ? std::vector<std::string>() : text.words()});
  }
  data.features = encoded(whole, places, data.columns);
  data.feature_names = feature_names_of(data.columns);
  read_target(reading, ColumnOfText(whole, target), choice);
  return reading;
}

Tensor features_from(const Table& table, std::span<const Column> columns) {
  std::vector<std::size_t> places;
  std::vector<std::string> missing;
  std::map<std::string_view, std::size_t> place_of;
  for (std::size_t at = 0; at < table.header.size(); ++at)
    place_of.emplace(table.header[at], at);
  for (const Column& column : columns) {
    const auto found = place_of.find(column.name);
    if (found == place_of.end()) {
      missing.push_back(column.name);
    } else {
      places.push_back(found->second);
    }
  }
  if (!missing.empty()) {
    std::vector<std::string> names;
    for (const Column& column : columns)
      names.push_back(column.name);
    throw NameError({.what = fmt::format("a feature is missing: {}", fmt::join(missing, ", ")),
                     .where = table.name,
                     .expected = fmt::format("{}", fmt::join(names, ", ")),
                     .found = fmt::format("{}", fmt::join(table.header, ", "))});
  }
  for (std::size_t row = 0; row < table.rows.size(); ++row) {
    for (const std::size_t place : places) {
      if (is_missing(table.rows[row][place])) ColumnOfText(table, place).refuse_missing(row);
    }
  }
  return encoded(table, places, columns);
}

}  // namespace lattice
