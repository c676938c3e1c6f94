#pragma once

#include <string>
#include <vector>

#include "lattice/text/numbers.hpp"

namespace lattice {

/// A number as a weighted sum of features, in the units of both: `temperature = 85·minutes + 20`.
struct LinearForm {
  std::string target;
  std::vector<std::string> features;
  std::vector<double> slopes;  ///< one for each feature
  double constant = 0.0;

  [[nodiscard]] std::string text(int digits = usual_digits) const;
};

}  // namespace lattice
