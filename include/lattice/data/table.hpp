#pragma once

#include <cstddef>
#include <cstdint>
#include <span>
#include <string>
#include <string_view>
#include <vector>

#include "lattice/data/dataset.hpp"
#include "lattice/text/words.hpp"

namespace lattice {

/// A table of text, as a file holds it: columns with names, and rows of fields.
struct Table {
  std::string name;
  std::vector<std::string> header;             ///< the names of the columns
  std::vector<std::vector<std::string>> rows;  ///< each as long as the header

  /// The origin of a row, for messages.
  struct Source {
    std::string file;
    std::size_t row = 0;   ///< counted from 1
    std::size_t line = 0;  ///< of the file; 0 if it has none
  };
  std::vector<Source> sources = {};  ///< of each row; empty for a table that is not from a file

  /// Columns of numbers with decimal commas, and an example.
  struct DecimalCommas {
    std::string column;
    std::string as_written;  ///< `3,5`
  };
  std::vector<DecimalCommas> decimal_commas = {};

  /// `pots.csv, row 3 (line 4 of the file)`.
  [[nodiscard]] std::string place(std::size_t row) const;
};

/// The rows of several tables with the same columns, one table after another; the columns are in
/// the order of the first.
/// @throws FileError when one has other columns than the first, SettingError for no table at all.
[[nodiscard]] Table appended(std::vector<Table> tables);

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

/// Which columns of a table are learnt from, and which is learnt. A column is called by its name,
/// or by its position from 1 where no column has that name.
struct ColumnChoice {
  std::vector<std::string> targets = {};   ///< the column to predict; several for numbers alone
  std::vector<std::string> features = {};  ///< all other columns when none is named
  std::string weights = {};                ///< the column that says how much each row counts
  std::string names = {};                  ///< the column with the name of each row
  std::string known = {};  ///< the column that says whose truth may be learnt from: yes or no

  /// Whether the rows are connected. Then they need no features (each is its own where there are
  /// none), and those without a target stay, unlabelled.
  bool are_connected = false;
  TargetKind kind = TargetKind::automatic;
  Missing missing = Missing::refused;

  /// How many outputs a network has that is to learn from the table; 0 when that is not known.
  /// Whole numbers of so many kinds are then taken for classes.
  std::int64_t outputs = 0;
};

/// A dataset made from a table, and what had to be done for it.
struct TableReading {
  Dataset data;
  std::int64_t rows_dropped = 0;           ///< because a value was missing
  std::vector<std::string> left_out = {};  ///< columns of too many different words
  bool whole_numbers_as_classes = false;   ///< because the network has an output for each
  std::int64_t rows_drawn_from = 0;        ///< how many there were, where only some were drawn
  std::vector<Table::DecimalCommas> decimal_commas = {};  ///< in the columns that are used
  std::string told = {};  ///< in one line: what files said that their bytes cannot
};

/// The most words that a column may hold to be taken as features when nobody named it.
inline constexpr std::size_t most_words = 20;

/// A dataset from a table of text. Columns of words become a feature for each word; classes are
/// numbered in the order of their names, or of their numbers.
/// @throws FileError, naming row and column, for a missing value or for a stray word in a column of
///         numbers; NameError for a column that is not there; SettingError for a target of a single
///         class, of about as many classes as rows, or of words beside other targets.
[[nodiscard]] TableReading dataset_from(const Table& table, const ColumnChoice& choice);

/// New records as features [example × feature], in the order in which `columns` were learnt.
/// Columns of the table that are not among them are not looked at.
/// @throws NameError when a column is missing, FileError for a field that cannot be used.
[[nodiscard]] Tensor features_from(const Table& table, std::span<const Column> columns);

}  // namespace lattice
