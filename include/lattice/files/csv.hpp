#pragma once

#include <filesystem>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "lattice/data/table.hpp"
#include "lattice/learning/run_record.hpp"

namespace lattice {

/// How a CSV file is read; by default found out from the file.
struct CsvSettings {
  /// The separator: `,`, `;`, `|` or a tab. By default the most frequent one in the first line.
  std::optional<char> separator = std::nullopt;

  /// Whether the first row has the names of the columns. By default it does, unless it has numbers
  /// in the columns that have numbers below it. Columns without names are called `column1`,
  /// `column2` …
  std::optional<bool> header = std::nullopt;

  /// Of JSON the key of the list of records, `readings`, or the way to it, `kiln.readings`. By
  /// default the document itself, or the only list of objects under a key.
  std::string list = {};
};

/// Reads a CSV file as RFC 4180 describes it: quotes, doubled quotes, line breaks in fields. What
/// is not UTF-8 is read as Windows-1252, an extension of Latin-1. JSON records,
/// `[{"hours": 30, "state": "sound"}, …]`, are read as well: the columns are the names in order of
/// appearance, and fields that a record does not have are missing.
///
/// Columns with decimal commas throughout, `3,5`, are converted; the table lists them.
/// @throws FileError when the file is missing, empty, without rows, when a row is longer or shorter
///         than the header, or when a field has control characters; with the line of the file.
[[nodiscard]] Table read_table(const std::filesystem::path& path, const CsvSettings& settings = {});

/// Reads several files with the same columns as one table, one after another.
/// @throws as `read_table` and `appended` do.
[[nodiscard]] Table read_tables(const std::vector<std::string>& paths,
                                const CsvSettings& settings = {});

/// The same from text; `name` stands for it in messages.
[[nodiscard]] Table parse_table(std::string_view text, const std::string& name,
                                const CsvSettings& settings = {});

/// Reads a dataset from a CSV file. @throws as `read_table` and `dataset_from` do.
[[nodiscard]] Dataset read_csv(const std::filesystem::path& path, const ColumnChoice& choice);

/// The same from text.
[[nodiscard]] Dataset parse_csv(std::string_view text, const std::string& name,
                                const ColumnChoice& choice);

/// The fields of a single record: `a,"wall, mm"` gives `a` and `wall, mm`.
/// @throws FileError when it is not one record.
[[nodiscard]] std::vector<std::string> parse_csv_record(const std::string& text);

/// A dataset as a table of texts: its original columns, every number in full, words and classes by
/// name; names of rows, and whether their label is `known`, if they have these.
/// @throws SettingError for a dataset that is not a table.
[[nodiscard]] Table table_of(const Dataset& data);

/// The same as CSV with a header row.
[[nodiscard]] std::string to_csv(const Dataset& data);

/// The figures of a run as a table, a row for each epoch and for each recorded step, in order.
/// @param classes if given, the recall of each class and the confusion matrix follow, where they
///        were recorded: `recall cracked`, `cracked as sound`
[[nodiscard]] Table figures_table(const std::string& name, const RunRecord& run,
                                  const std::vector<std::string>& classes = {});

/// Rows of fields as CSV, quoted where needed. A field that a spreadsheet would read as a formula,
/// such as `=1+1`, gets a leading single quote, which `parse_table` removes.
[[nodiscard]] std::string to_csv(const Table& table);

}  // namespace lattice
