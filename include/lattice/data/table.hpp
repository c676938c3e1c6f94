#pragma once

#include <cstddef>
#include <cstdint>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <vector>

#include "lattice/data/dataset.hpp"
#include "lattice/data/field_rows.hpp"
#include "lattice/data/row_sources.hpp"
#include "lattice/text/words.hpp"

namespace lattice {

/// A table of text, as a file holds it: columns with names, and rows of fields.
struct Table {
  std::string name;
  std::vector<std::string> header;  ///< the names of the columns
  FieldRows rows;                   ///< each as long as the header
  RowSources sources = {};          ///< of each row; empty for a table that is not from a file

  /// Columns of numbers with decimal commas, and an example.
  struct DecimalCommas {
    std::string column;
    std::string as_written;  ///< `3,5`
  };
  std::vector<DecimalCommas> decimal_commas = {};

  /// Whether a row is in a fixed part.
  [[nodiscard]] bool is_fixed(std::size_t row) const {
    return row < sources.size() && sources[row].part.has_value();
  }

  /// `pots.csv, row 3 (line 4 of the file)`.
  [[nodiscard]] std::string place(std::size_t row) const;
};

/// The rows of several tables with the same columns, one table after another; the columns are in
/// the order of the first.
/// @throws FileError when one has other columns than the first, SettingError for no table at all.
[[nodiscard]] Table appended(std::vector<Table> tables);

/// A table with the rows of another as a fixed part of the data. The columns are those of the
/// table.
/// @throws FileError when the other one has other columns.
[[nodiscard]] Table with_part(Table table, DataPart part, Table rows);

/// What a target column holds.
enum class TargetKind {
  automatic,  ///< classes for words, for 0 and 1, and for −1 and 1; numbers otherwise
  numbers,
  classes
};

inline constexpr Words<TargetKind> target_kind_words = {{TargetKind::automatic, "automatic"},
                                                        {TargetKind::numbers, "numbers"},
                                                        {TargetKind::classes, "classes"}};

/// True for a field that holds no value: empty, `?`, `NA`, `N/A`, `NaN` or `null`.
[[nodiscard]] bool is_missing(std::string_view field);

/// What is done about a row in which a value is missing.
enum class Missing {
  refused,  ///< an error that names row and column
  dropped   ///< the row is left out, and counted
};

inline constexpr Words<Missing> missing_words = {{Missing::refused, "refuse"},
                                                 {Missing::dropped, "drop"}};

/// The roles of the columns of a table. A column is given by its name, or by its position from 1 if
/// no column has that name.
struct ColumnChoice {
  std::vector<std::string> targets = {};   ///< the column to predict; several only for numbers
  std::vector<std::string> features = {};  ///< by default all other columns
  std::string weights = {};                ///< the column with the row weights
  std::string names = {};                  ///< the column with the row names
  std::string known = {};  ///< a yes/no column: whether the label of a row is known in training

  /// Whether the rows are connected. Then features are optional (without any, each row is its own
  /// feature), and rows without a target are kept, unlabelled.
  bool are_connected = false;
  TargetKind kind = TargetKind::automatic;

  /// The names of the classes: of label 0, of label 1 …, or of the labels in their order; of words
  /// their order. By default the labels themselves, sorted.
  std::vector<std::string> class_names = {};
  Missing missing = Missing::refused;

  /// The number of outputs of the network, or 0 if unknown. A target of whole numbers with this
  /// many different values is then read as classes.
  std::int64_t outputs = 0;
};

/// A dataset from a table, and what was done to make it.
struct TableReading {
  Dataset data;
  std::int64_t rows_dropped = 0;           ///< because of missing values
  std::vector<std::string> left_out = {};  ///< columns with too many different words
  bool last_as_target = false;             ///< no column was named as the target
  bool whole_numbers_as_classes = false;   ///< because the network has an output for each
  std::int64_t rows_drawn_from = 0;        ///< the number of rows before some were drawn
  std::vector<Table::DecimalCommas> decimal_commas = {};  ///< in the columns in use
  std::string told = {};  ///< a line about the files, such as the size of their pictures
};

/// The largest number of different words in a column that becomes features without being named.
inline constexpr std::size_t most_words = 20;

/// Returns a dataset from a table of text. A column of words becomes a feature for each word;
/// classes are sorted by name, or by number. Words and classes are those of the rows that are in no
/// fixed part.
/// @throws FileError, naming row and column, for a missing value, for a stray word in a column of
///         numbers, and for a word or a class that only a fixed part has; NameError for a column
///         that is not there; SettingError for a target of a single class, of about as many classes
///         as rows, or of words beside other targets.
[[nodiscard]] TableReading dataset_from(const Table& table, const ColumnChoice& choice);

/// Returns new records as features [example × feature], in the order of `columns`, the columns of
/// the training data. Other columns of the table are ignored.
/// @throws NameError when a column is missing, FileError for a field that cannot be used.
[[nodiscard]] Tensor features_from(const Table& table, std::span<const Column> columns);

}  // namespace lattice
