#pragma once

#include <cstddef>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "lattice/data/dataset.hpp"

namespace lattice {

/// Where the rows of a table are from, for messages. Rows that stand one after another in a file
/// take no room of their own.
class RowSources {
 public:
  /// The origin of a row.
  struct Source {
    std::string_view file;
    std::size_t row = 0;   ///< counted from 1
    std::size_t line = 0;  ///< of the file; 0 if it has none

    /// The part of the data that all rows of the file are; none for rows that are split.
    std::optional<DataPart> part = std::nullopt;
  };

  [[nodiscard]] std::size_t size() const { return size_; }
  [[nodiscard]] bool empty() const { return size_ == 0; }

  /// @param row below `size()`
  [[nodiscard]] Source operator[](std::size_t row) const;

  /// Adds the origin of the next row.
  void add(const Source& source);

  /// Says of all rows which part of the data they are.
  void set_part(DataPart part);

  /// Whether any row is in a fixed part.
  [[nodiscard]] bool have_parts() const;

 private:
  /// Rows that stand one after another in a file, those in the table from `first` on.
  struct Run {
    std::size_t first;
    std::size_t file;
    std::size_t row;
    std::size_t line;
    std::optional<DataPart> part;
  };

  std::vector<std::string> files_ = {};
  std::vector<Run> runs_ = {};
  std::size_t size_ = 0;
};

}  // namespace lattice
