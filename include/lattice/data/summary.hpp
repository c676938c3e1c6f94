#pragma once

#include <cstdint>
#include <string>
#include <vector>

#include "lattice/data/dataset.hpp"

namespace lattice {

/// Figures of one feature, or of the numbers to predict, in its unit.
struct NumberSummary {
  std::string name;
  double low = 0.0;
  double high = 0.0;
  double mean = 0.0;
  double spread = 0.0;  ///< standard deviation, over n

  /// How large the numbers are: the larger of |mean| and spread.
  [[nodiscard]] double size() const;
};

/// What a dataset looks like from afar.
struct DataSummary {
  std::string name;
  std::int64_t rows = 0;
  std::vector<NumberSummary> features = {};
  std::string target = {};
  std::vector<NumberSummary> numbers = {};  ///< of the numbers to predict; empty for classes
  std::vector<std::string> class_names = {};
  std::vector<std::int64_t> class_sizes = {};
};

[[nodiscard]] DataSummary summarise(const Dataset& data);

}  // namespace lattice
