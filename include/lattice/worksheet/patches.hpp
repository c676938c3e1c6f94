#pragma once

#include <cstdint>
#include <string>
#include <vector>

#include "lattice/worksheet/formula.hpp"
#include "lattice/worksheet/worksheet.hpp"

namespace lattice {

/// Products of a sum whose factors lie on pictures: what a window meets at a place, and what each
/// number there is multiplied by. A convolution gives one for each channel that comes in.
struct Patch {
  std::string met;     ///< what is met: `x`, `∂conv`
  std::string by;      ///< what it is multiplied by: `conv.kernel`
  std::string of_met;  ///< which table of it: `example 0, channel 2`; empty where there is one
  std::string of_by;   ///< the same of the other
  std::vector<std::int64_t> rows;     ///< of what is met, from the top
  std::vector<std::int64_t> columns;  ///< from the left
  Tensor numbers = {};                ///< [row × column], as they are met
  Tensor factors = {};                ///< what each is multiplied by
  double sum = 0.0;                   ///< of the products

  /// What it is multiplied by lies turned by half: what stands first in it meets what is last.
  bool is_turned = false;
};

/// The patches in a formula over the lines of a worksheet: none unless it is a sum of products of
/// numbers that have rows and columns.
[[nodiscard]] std::vector<Patch> patches_of(const Formula& formula, const Worksheet& sheet);

}  // namespace lattice
