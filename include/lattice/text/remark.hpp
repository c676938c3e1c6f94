#pragma once

#include <string>

#include "lattice/text/error.hpp"

namespace lattice {

/// Something that a good teacher would mention.
struct Remark {
  std::string code;  ///< `features-differ`
  std::string text;  ///< one sentence, with the figure where there is one
  std::string remedy = {};
  Advice advice = {};  ///< which setting the remedy comes down to
};

}  // namespace lattice
