#pragma once

#include <string>
#include <string_view>
#include <vector>

#include "lattice/network/layer.hpp"
#include "lattice/pictures/contrast.hpp"

namespace lattice {

/// Local contrast normalisation (`with_contrast`). Its `level`, `deviation`
/// and `least` are lines of the worksheet.
struct NormaliseContrast {
  Contrast contrast = {};

  [[nodiscard]] static std::string_view kind() { return "contrast"; }
  [[nodiscard]] std::string text() const { return lattice::text(contrast); }
  [[nodiscard]] Shape shape(const Shape& example) const;
  [[nodiscard]] static std::vector<WeightNeed> weights(const Shape&) { return {}; }
  [[nodiscard]] std::int64_t written(const Shape& example) const;
  [[nodiscard]] Line forward(const Line& x, Pass& pass) const;
};

}  // namespace lattice
