#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "lattice/data/row_set.hpp"

namespace lattice {

/// Figures of one feature, or of the numbers to predict, in its unit.
struct NumberSummary {
  std::string name;
  double low = 0.0;
  double high = 0.0;
  double mean = 0.0;
  double standard_deviation = 0.0;  ///< standard deviation, over n

  /// How large the numbers are: the larger of |mean| and standard_deviation.
  [[nodiscard]] double size() const;
};

/// A summary of rows.
struct DataSummary {
  std::string name;
  std::int64_t rows = 0;
  std::vector<NumberSummary> features = {};
  std::string target = {};
  std::vector<NumberSummary> numbers = {};  ///< of the numbers to predict; empty for classes
  std::optional<NumberSummary> row_weights =
      std::nullopt;  ///< how much rows count, where it is told
  std::vector<std::string> class_names = {};
  std::vector<std::int64_t> class_sizes = {};
};

/// Of raw rows. Features of a table are summarised one by one, pictures by channel, and examples of
/// another shape as a whole. Rows that are each their own feature have no features to summarise.
[[nodiscard]] DataSummary summarise(const RowSet& rows);

}  // namespace lattice
