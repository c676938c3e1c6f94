#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <array>
#include <cctype>
#include <cmath>
#include <map>
#include <optional>

#include "data/class_names.hpp"
#include "data/column_of_text.hpp"
#include "lattice/data/table.hpp"
#include "lattice/text/error.hpp"
#include "lattice/text/letters.hpp"
#include "text/counted.hpp"

namespace lattice {
namespace {

/// The most different words in a column that somebody named.
constexpr std::size_t most_words_when_named = 200;

/// The columns that are no features, by what they are for.
struct OtherColumns {
  std::vector<std::size_t> targets = {};
  std::optional<std::size_t> weights = std::nullopt;
  std::optional<std::size_t> names = std::nullopt;
  std::optional<std::size_t> known = std::nullopt;

  /// What a column is for; empty where nothing.
  [[nodiscard]] std::string_view job_of(std::size_t column) const {
    if (std::ranges::find(targets, column) != targets.end()) return "is the target";
    if (column == weights) return "says how much rows count";
    if (column == names) return "names the rows";
    if (column == known) return "says what is known";
    return "";
  }
};

/// What a column of a table holds: numbers, or these words.
Column column_at(const Table& table, std::size_t place) {
  const ColumnOfText text(table, place);
  return {.name = text.name(),
          .words = text.is_of_numbers() ? std::vector<std::string>() : text.words()};
}

/// The columns to learn from, and where in the table they are.
struct FeatureColumns {
  std::vector<std::size_t> places = {};
  std::vector<Column> columns = {};

  void add(std::size_t place, Column column) {
    places.push_back(place);
    columns.push_back(std::move(column));
  }
};

FeatureColumns feature_columns(const Table& table, const ColumnChoice& choice,
                               const OtherColumns& others, std::vector<std::string>& left_out) {
  FeatureColumns features;
  for (const std::string& name : choice.features) {
    const std::size_t place = find_column(table, name, "features");
    if (const std::string_view job = others.job_of(place); !job.empty()) {
      throw NameError({.what = fmt::format("'{}' {}, and is a feature at once", name, job),
                       .expected = place == others.weights || place == others.names
                                       ? "features apart from it"
                                       : "features that are known before the target is",
                       .remedy = "leave it out of the features"});
    }
    if (std::ranges::find(features.places, place) != features.places.end()) {
      throw NameError({.what = fmt::format("the feature '{}' is named twice", name),
                       .expected = "each feature once"});
    }
    Column column = column_at(table, place);
    if (column.words.size() > most_words_when_named) {
      throw FileError({.what = fmt::format("the column '{}' holds too many different words", name),
                       .where = table.name,
                       .expected = fmt::format("at most {}", most_words_when_named),
                       .found = fmt::format("{}", column.words.size()),
                       .remedy = "leave it out of the features"});
    }
    features.add(place, std::move(column));
  }
  if (!features.places.empty()) return features;
  check_names_differ(table);
  for (std::size_t place = 0; place < table.header.size(); ++place) {
    if (!others.job_of(place).empty()) continue;
    Column column = column_at(table, place);
    if (column.words.size() > most_words) {
      left_out.push_back(column.name);
    } else {
      features.add(place, std::move(column));
    }
  }
  if (features.places.empty() && !choice.are_connected) {
    throw NameError({.what = fmt::format("{} has no feature column", table.name),
                     .expected = fmt::format("at least one column other than '{}'",
                                             fmt::join(choice.targets, "', '")),
                     .found = fmt::format("{}", fmt::join(table.header, ", "))});
  }
  return features;
}

/// The rows of a table that are kept, by their numbers, each with its source.
template <class Keep>
Table rows_kept(const Table& table, Keep is_kept) {
  Table kept{.name = table.name, .header = table.header, .rows = {}};
  for (std::size_t row = 0; row < table.rows.size(); ++row) {
    if (!is_kept(row)) continue;
    kept.rows.push_back(table.rows[row]);
    if (row < table.sources.size()) kept.sources.add(table.sources[row]);
  }
  return kept;
}

/// The table without the rows in which one of these columns misses a value; nothing where no row
/// does.
std::optional<Table> without_gaps(const Table& table, const std::vector<std::size_t>& columns,
                                  Missing missing) {
  const auto has_no_gap = [&](std::size_t row) {
    const auto gap = std::ranges::find_if(
        columns, [&](std::size_t column) { return is_missing(table.rows[row][column]); });
    if (gap == columns.end()) return true;
    if (missing == Missing::refused) ColumnOfText(table, *gap).refuse_missing(row);
    return false;
  };
  std::size_t full = 0;
  while (full < table.rows.size() && has_no_gap(full))
    ++full;
  if (full == table.rows.size() && full > 0) return std::nullopt;
  Table whole = rows_kept(table, has_no_gap);
  if (whole.rows.empty()) {
    throw FileError({.what = fmt::format("no row of {} is left", table.name),
                     .expected = "at least one row without a missing value",
                     .found = fmt::format("{} rows, each with a gap", table.rows.size())});
  }
  return whole;
}

/// The rows that are in no fixed part, by which columns, words and classes are told; nothing where
/// all are.
std::optional<Table> without_fixed_parts(const Table& table) {
  if (!table.sources.have_parts()) return std::nullopt;
  Table others = rows_kept(table, [&](std::size_t row) { return !table.is_fixed(row); });
  if (!others.rows.empty()) return others;
  throw FileError({.what = fmt::format("{} has no row for training", table.name),
                   .expected = "a row apart from those of the validation and the test file",
                   .found = "none"});
}

/// The fixed parts of a table's rows.
std::vector<FixedPart> fixed_parts_of(const Table& table) {
  std::vector<FixedPart> parts;
  if (!table.sources.have_parts()) return parts;
  for (std::size_t row = 0; row < table.rows.size(); ++row) {
    if (!table.is_fixed(row)) continue;
    const RowSources::Source source = table.sources[row];
    if (std::ranges::find(parts, *source.part, &FixedPart::part) == parts.end())
      parts.push_back({.part = *source.part, .name = std::string(source.file)});
    std::ranges::find(parts, *source.part, &FixedPart::part)
        ->rows.push_back(static_cast<std::int64_t>(row));
  }
  return parts;
}

/// The rows in which one of these columns misses a value. @throws FileError for all rows.
std::vector<std::int64_t> rows_with_gaps(const Table& table,
                                         const std::vector<std::size_t>& columns) {
  std::vector<std::int64_t> rows;
  for (std::size_t row = 0; row < table.rows.size(); ++row) {
    const bool has_gap = std::ranges::any_of(columns, [&](std::size_t column) {
      return ColumnOfText(table, column).is_missing_at(row);
    });
    if (has_gap) rows.push_back(static_cast<std::int64_t>(row));
  }
  if (rows.size() < table.rows.size()) return rows;
  throw FileError(
      {.what = "every row is unlabelled",
       .where = fmt::format("{}, column '{}'", table.name, table.header[columns.front()]),
       .expected = "a class or a number in some rows, for training",
       .found = "a gap in every row"});
}

Tensor encoded(const Table& table, std::span<const std::size_t> places,
               std::span<const Column> columns) {
  std::size_t width = 0;
  for (const Column& column : columns)
    width += column.feature_count();
  const Shape shape{std::ssize(table.rows), static_cast<std::int64_t>(width)};
  Tensor tensor = zeros(shape.with({Role::example, Role::feature}));
  double* place = tensor.writable<double>();
  for (std::size_t row = 0; row < table.rows.size(); ++row) {
    for (std::size_t at = 0; at < columns.size(); ++at) {
      const ColumnOfText text(table, places[at]);
      if (columns[at].words.empty()) {
        *place = text.number(row);
      } else {
        place[text.place_of_word(row, columns[at].words)] = 1.0;
      }
      place += columns[at].feature_count();
    }
  }
  return tensor;
}

/// A message lists so many labels, and says that there are more.
constexpr std::size_t most_labels_named = 6;

/// The different numbers of a column of numbers, in order, as they were first written. Where there
/// are too many for classes that nobody asked for, not all of them.
std::map<double, std::string> kinds_of_numbers(const ColumnOfText& target,
                                               const ColumnChoice& choice) {
  const bool may_be_numbers = choice.kind != TargetKind::classes && choice.class_names.empty();
  const auto most_classes = static_cast<std::size_t>(std::max<std::int64_t>(2, choice.outputs));
  std::map<double, std::string> kinds;
  for (std::size_t row = 0; row < target.rows(); ++row) {
    if (target.is_missing_at(row)) continue;
    kinds.emplace(target.number(row), target.field(row));
    if (may_be_numbers && kinds.size() > most_classes) break;
  }
  return kinds;
}

bool are_classes(const std::map<double, std::string>& kinds, const ColumnChoice& choice) {
  if (!choice.class_names.empty() && choice.kind == TargetKind::automatic) return true;
  if (choice.kind != TargetKind::automatic) return choice.kind == TargetKind::classes;
  if (kinds.size() == 2) {
    const double low = kinds.begin()->first;
    if (kinds.rbegin()->first == 1.0 && (low == 0.0 || low == -1.0)) return true;
  }
  return choice.outputs >= 2 && std::ssize(kinds) == choice.outputs &&
         std::ranges::all_of(kinds,
                             [](const auto& kind) { return std::rint(kind.first) == kind.first; });
}

void check_classes(const Dataset& data, const std::string& target) {
  if (data.class_count() == 1) {
    throw SettingError({.what = fmt::format("'{}' has only one class", target),
                        .where = data.name,
                        .expected = "two classes or more",
                        .found = fmt::format("'{}' in every row", data.class_names.front())});
  }
  const std::int64_t rows = data.rows() - std::ssize(data.unlabelled);
  if (2 * data.class_count() > rows) {
    throw SettingError(
        {.what = fmt::format("'{}' has too many classes", target),
         .where = data.name,
         .expected = fmt::format("at most {} in {} rows: two rows for each",
                                 counted(rows / 2, Role::none, "class", "classes"), rows),
         .found = fmt::format("{} classes", data.class_count()),
         .remedy = "choose another target: this one seems to give each row a name of its own"});
  }
}

/// The number of the class that a row names by a number. @throws FileError for another number.
double class_of_number(const ColumnOfText& target, std::size_t row,
                       const std::map<double, double>& number_of,
                       const std::vector<std::string>& names) {
  const auto found = number_of.find(target.number(row));
  return found != number_of.end() ? found->second
                                  : static_cast<double>(target.place_of_word(row, names));
}

/// The class of each label: of 0, 1, 2 … the name at that place, or as many names as labels in
/// their order. @throws SettingError where neither fits.
std::map<double, double> labels_of(const std::map<double, std::string>& kinds,
                                   const std::vector<std::string>& names,
                                   const std::string& target) {
  std::map<double, double> number_of;
  const auto count = static_cast<double>(names.size());
  const bool are_places = std::ranges::all_of(kinds, [&](const auto& kind) {
    return kind.first >= 0.0 && kind.first < count && std::rint(kind.first) == kind.first;
  });
  if (are_places) {
    for (std::size_t at = 0; at < names.size(); ++at)
      number_of.emplace(static_cast<double>(at), static_cast<double>(at));
    return number_of;
  }
  if (kinds.size() != names.size()) {
    std::vector<std::string> labels;
    for (const auto& [number, label] : kinds) {
      labels.push_back(labels.size() < most_labels_named ? label : "…");
      if (labels.size() > most_labels_named) break;
    }
    throw SettingError(
        {.what = fmt::format("the names of the classes do not fit the labels of '{}'", target),
         .expected = fmt::format("a name for each of {} labels", kinds.size()),
         .found = fmt::format("{} for {}", counted(std::ssize(names), "name"),
                              fmt::join(labels, ", "))});
  }
  for (const auto& [number, label] : kinds)
    number_of.emplace(number, static_cast<double>(number_of.size()));
  return number_of;
}

/// Reads the one column there is to predict: classes, or numbers; 0 where it says nothing.
/// @param told the same column in the rows that tell what kind it is
void read_target(TableReading& reading, const ColumnOfText& told, const ColumnOfText& target,
                 const ColumnChoice& choice) {
  Dataset& data = reading.data;
  const auto rows = static_cast<std::int64_t>(target.rows());
  std::vector<double> truth;
  const auto read = [&](auto truth_at) {
    for (std::size_t row = 0; row < target.rows(); ++row)
      truth.push_back(target.is_missing_at(row) ? 0.0 : static_cast<double>(truth_at(row)));
  };
  if (told.is_of_numbers() || choice.kind == TargetKind::numbers) {
    const std::map<double, std::string> kinds = kinds_of_numbers(told, choice);
    std::map<double, double> number_of;
    const bool classes = are_classes(kinds, choice);
    if (classes && !choice.class_names.empty()) {
      data.class_names = choice.class_names;
      number_of = labels_of(kinds, choice.class_names, target.name());
      data.class_labels.resize(number_of.size());
      for (const auto& [label, number] : number_of)
        data.class_labels[static_cast<std::size_t>(number)] = fmt::format("{}", label);
    } else if (classes) {
      for (const auto& [number, name] : kinds) {
        number_of.emplace(number, static_cast<double>(data.class_names.size()));
        data.class_names.push_back(name);
      }
      reading.whole_numbers_as_classes = choice.kind == TargetKind::automatic && kinds.size() > 2;
    }
    read([&](std::size_t row) {
      return classes ? class_of_number(target, row, number_of, data.class_names)
                     : target.number(row);
    });
  } else {
    data.class_names = choice.class_names.empty() ? told.words() : choice.class_names;
    read([&](std::size_t row) { return target.place_of_word(row, data.class_names); });
  }
  if (data.class_names.empty()) {
    data.targets = tensor(Shape{rows, 1}.with({Role::example, Role::target}), truth);
  } else {
    data.classes = tensor(Shape{rows}.with({Role::example}), truth);
    check_classes(data, target.name());
  }
}

/// Reads several columns of numbers to predict; 0 where they say nothing.
void read_targets(Dataset& data, const Table& table, const std::vector<std::size_t>& places,
                  TargetKind kind) {
  std::vector<double> numbers;
  for (std::size_t row = 0; row < table.rows.size(); ++row) {
    for (const std::size_t place : places) {
      const ColumnOfText target(table, place);
      if (kind == TargetKind::classes || (row == 0 && !target.is_of_numbers())) {
        throw SettingError({.what = "several targets must be numeric",
                            .where = table.name,
                            .expected = "columns of numbers, or a single target of classes",
                            .found = kind == TargetKind::classes
                                         ? fmt::format("{} targets of classes", places.size())
                                         : fmt::format("words in the column '{}'", target.name())});
      }
      numbers.push_back(target.is_missing_at(row) ? 0.0 : target.number(row));
    }
  }
  const Shape shape{std::ssize(table.rows), std::ssize(places)};
  data.targets = tensor(shape.with({Role::example, Role::target}), numbers);
}

/// The places of the columns to predict.
std::vector<std::size_t> target_columns(const Table& table, const ColumnChoice& choice) {
  if (choice.targets.empty()) find_column(table, "", "target");
  // What was taken apart at its commas may be the name of one column.
  const std::string in_one = fmt::format("{}", fmt::join(choice.targets, ","));
  if (std::ranges::count(table.header, in_one) == 1) return {find_column(table, in_one, "target")};
  std::vector<std::size_t> places;
  for (const std::string& name : choice.targets) {
    places.push_back(find_column(table, name, "target"));
    if (std::ranges::count(places, places.back()) > 1) {
      throw NameError({.what = fmt::format("the target '{}' is named twice", name),
                       .expected = "each target once"});
    }
  }
  return places;
}

/// The columns that are no features.
OtherColumns other_columns(const Table& table, const ColumnChoice& choice) {
  OtherColumns others{.targets = target_columns(table, choice)};
  const auto find = [&](const std::string& name, const std::string& setting,
                        std::optional<std::size_t>& place) {
    if (name.empty()) return;
    const std::size_t column = find_column(table, name, setting);
    if (const std::string_view job = others.job_of(column); !job.empty()) {
      throw NameError(
          {.what = fmt::format("'{}' {}, and is named for {} at once", name, job, setting),
           .expected = "a column of its own",
           .remedy = "name another column"});
    }
    place = column;
  };
  find(choice.weights, "weights", others.weights);
  find(choice.names, "names", others.names);
  find(choice.known, "known", others.known);
  return others;
}

/// The rows of which a column says yes.
std::vector<std::int64_t> rows_that_say_yes(const Table& table, std::size_t column) {
  constexpr std::array<std::string_view, 5> yes = {"yes", "1", "true", "x", "known"};
  constexpr std::array<std::string_view, 5> no = {"no", "0", "false", "", "unknown"};
  std::vector<std::int64_t> rows;
  for (std::size_t row = 0; row < table.rows.size(); ++row) {
    std::string field(trimmed(table.rows[row][column]));
    std::ranges::transform(field, field.begin(), [](unsigned char c) { return std::tolower(c); });
    if (std::ranges::find(yes, field) != yes.end()) {
      rows.push_back(static_cast<std::int64_t>(row));
    } else if (std::ranges::find(no, field) == no.end()) {
      throw FileError(
          {.what = fmt::format("'{}' does not say whether a label is known", field),
           .where = fmt::format("{}, column '{}'", table.place(row), table.header[column]),
           .expected = "yes or no, 1 or 0",
           .found = std::string(table.rows[row][column])});
    }
  }
  if (!rows.empty()) return rows;
  throw FileError({.what = "no label is known",
                   .where = fmt::format("{}, column '{}'", table.name, table.header[column]),
                   .expected = "yes in one row or more",
                   .found = "no in every row"});
}

/// Refuses rows that are said to be known, and in which there is nothing to be known.
void check_have_truth(const Dataset& data, const Table& table, std::size_t known) {
  for (const std::int64_t row : data.known) {
    if (data.has_truth(row)) continue;
    const auto at = static_cast<std::size_t>(row);
    throw FileError({.what = fmt::format("a known label is missing in '{}'",
                                         fmt::join(data.all_target_names(), "', '")),
                     .where = fmt::format("{}, column '{}'", table.place(at), table.header[known]),
                     .expected = "no, or a label",
                     .found = std::string(table.rows[at][known])});
  }
}

/// The numbers of that column, each 0 or more.
Tensor weights_in(const Table& table, std::size_t column) {
  const std::vector<Column> columns = {{.name = table.header[column]}};
  const Tensor numbers = encoded(table, std::span(&column, 1), columns);
  for (std::int64_t row = 0; row < numbers.count(); ++row) {
    if (numbers.at_offset(row) >= 0.0) continue;
    throw FileError(
        {.what = "a row weight is negative",
         .where = fmt::format("{}, column '{}'", table.place(static_cast<std::size_t>(row)),
                              table.header[column]),
         .expected = "0 or more",
         .found = std::string(table.rows[static_cast<std::size_t>(row)][column])});
  }
  return numbers.reshaped({numbers.count()});
}

}  // namespace

TableReading dataset_from(const Table& table, const ColumnChoice& choice) {
  check_class_names(choice.class_names);
  TableReading reading;
  const OtherColumns others = other_columns(table, choice);
  const std::vector<std::size_t>& targets = others.targets;
  std::optional<Table> not_fixed = without_fixed_parts(table);
  FeatureColumns features =
      feature_columns(not_fixed ? *not_fixed : table, choice, others, reading.left_out);
  const std::vector<std::size_t>& places = features.places;
  std::vector<std::size_t> in_use = places;
  // A connected row is one whatever is true of it.
  if (!choice.are_connected) in_use.insert(in_use.end(), targets.begin(), targets.end());
  if (others.weights) in_use.push_back(*others.weights);
  const std::optional<Table> without = without_gaps(table, in_use, choice.missing);
  const Table& whole = without ? *without : table;
  reading.rows_dropped = std::ssize(table.rows) - std::ssize(whole.rows);

  Dataset& data = reading.data;
  data.name = table.name;
  data.fixed_parts = fixed_parts_of(whole);
  const std::optional<Table> whole_not_fixed =
      without ? without_fixed_parts(whole) : std::move(not_fixed);
  const Table& telling = whole_not_fixed ? *whole_not_fixed : whole;
  // Without the rows that are left out, a column may hold fewer words.
  for (std::size_t at = 0; without && at < places.size(); ++at)
    features.columns[at] = column_at(telling, places[at]);
  data.columns = std::move(features.columns);
  data.features = places.empty() ? each_its_own(std::ssize(whole.rows))
                                 : Examples(encoded(whole, places, data.columns));
  data.feature_names = feature_names_of(data.columns);
  for (const std::size_t target : targets)
    data.target_names.push_back(whole.header[target]);
  if (choice.are_connected) data.unlabelled = rows_with_gaps(whole, targets);
  if (targets.size() == 1) {
    read_target(reading, ColumnOfText(telling, targets.front()),
                ColumnOfText(whole, targets.front()), choice);
  } else {
    read_targets(data, whole, targets, choice.kind);
  }
  if (others.weights) data = data.with_row_weights(weights_in(whole, *others.weights));
  if (others.known) {
    data.known = rows_that_say_yes(whole, *others.known);
    check_have_truth(data, whole, *others.known);
  }
  for (std::size_t row = 0; others.names && row < whole.rows.size(); ++row)
    data.row_names.emplace_back(trimmed(whole.rows[row][*others.names]));
  for (const std::size_t column : in_use) {
    const auto commas = std::ranges::find(table.decimal_commas, table.header[column],
                                          &Table::DecimalCommas::column);
    if (commas != table.decimal_commas.end()) reading.decimal_commas.push_back(*commas);
  }
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
