#pragma once

#include <cstddef>
#include <string>
#include <string_view>
#include <vector>

#include "lattice/data/table.hpp"
#include "lattice/text/error.hpp"
#include "lattice/text/letters.hpp"

namespace lattice {

/// One column of a table, as far as its rows are in use.
class ColumnOfText {
 public:
  ColumnOfText(const Table& table, std::size_t column) : table_(&table), column_(column) {}

  [[nodiscard]] const std::string& name() const { return table_->header[column_]; }
  [[nodiscard]] std::size_t rows() const { return table_->rows.size(); }
  [[nodiscard]] std::string_view field(std::size_t row) const {
    return trimmed(table_->rows[row][column_]);
  }
  [[nodiscard]] bool is_missing_at(std::size_t row) const { return is_missing(field(row)); }

  /// True when at least half of the fields that are filled hold numbers.
  [[nodiscard]] bool is_of_numbers() const;

  /// The different words, in order.
  [[nodiscard]] std::vector<std::string> words() const;

  /// @throws FileError, with the row, for a field that is no finite number.
  [[nodiscard]] double number(std::size_t row) const;

  /// @throws FileError, with the row and the nearest word, for a field that is none of them.
  [[nodiscard]] std::size_t place_of_word(std::size_t row,
                                          const std::vector<std::string>& words) const;

  /// @throws FileError always: there is nothing in that row.
  [[noreturn]] void refuse_missing(std::size_t row) const;

 private:
  [[nodiscard]] Trouble refusal(std::size_t row) const;

  const Table* table_;
  std::size_t column_;
};

/// Finds a column by name, or by its position from 1.
/// @param setting where it was named, for the message
/// @throws NameError for a column that is not there, or is there several times.
std::size_t find_column(const Table& table, const std::string& name, std::string_view setting);

/// Refuses a table in which columns cannot be found by their names, as some are called alike.
void check_names_differ(const Table& table);

}  // namespace lattice
