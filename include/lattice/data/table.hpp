#pragma once

#include <cstddef>
#include <cstdint>
#include <span>
#include <string>
#include <vector>

#include "lattice/data/dataset.hpp"

namespace lattice {

/// A table of text, as a file holds it: columns with names, and rows of fields.
struct Table {
  std::string name;
  std::vector<std::string> header;             ///< the names of the columns
  std::vector<std::vector<std::string>> rows;  ///< each as long as the header
  std::vector<std::size_t> lines = {};         ///< the line of the file on which each row starts
};

/// What a target column holds.
enum class TargetKind {
  automatic,  ///< classes for words, for 0 and 1, and for −1 and 1; numbers otherwise
  numbers,
  classes
};

/// What is done about a row in which a value is missing: an empty field, `?`, `NA`, `N/A`, `NaN` or
/// `null`.
enum class Missing {
  refused,  ///< an error that names row and column
  dropped   ///< the row is left out, and counted
};

/// Which columns of a table are learnt from, and which is learnt. A column is called by its name,
/// or by its position from 1 where no column has that name.
struct ColumnChoice {
  std::string target;                      ///< the column to predict
  std::vector<std::string> features = {};  ///< all other columns when none is named
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
};

/// The most words that a column may hold to be taken as features when nobody named it.
inline constexpr std::size_t most_words = 20;

/// A dataset from a table of text. Columns of words become a feature for each word; classes are
/// numbered in the order of their names, or of their numbers.
/// @throws FileError, naming row and column, for a missing value or for a stray word in a column of
///         numbers; NameError for a column that is not there; SettingError for a target of a single
///         class, or of about as many classes as rows.
[[nodiscard]] TableReading dataset_from(const Table& table, const ColumnChoice& choice);

/// New records as features [example × feature], in the order in which `columns` were learnt.
/// Columns of the table that are not among them are not looked at.
/// @throws NameError when a column is missing, FileError for a field that cannot be used.
[[nodiscard]] Tensor features_from(const Table& table, std::span<const Column> columns);

}  // namespace lattice
