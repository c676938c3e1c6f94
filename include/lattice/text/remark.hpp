#pragma once

#include <string>

#include "lattice/text/error.hpp"

namespace lattice {

/// A remark on a common mistake.
struct Remark {
  std::string code;  ///< `features-differ`
  std::string text;  ///< one sentence, with the figure if there is one
  std::string remedy = {};
  Advice advice = {};  ///< the remedy as a setting
};

}  // namespace lattice
