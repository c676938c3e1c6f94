#pragma once

#include <cstdint>
#include <optional>
#include <string_view>
#include <vector>

#include "lattice/data/own_scaling.hpp"
#include "lattice/data/preparation.hpp"
#include "lattice/data/row_set.hpp"
#include "lattice/worksheet/worksheet.hpp"

namespace lattice {

/// The section of the lines that prepare the data.
inline constexpr std::string_view scaling_section = "scaling";

/// The factors of one step of a preparation on a worksheet.
struct FactorLines {
  Line centre = {};
  Line divisor = {};
  OwnScaling own = {};  ///< instead of them
};

/// A batch on a worksheet.
struct GivenLines {
  Line x;                                ///< features
  std::optional<Line> y = std::nullopt;  ///< classes [example], or targets [example × target]
  std::optional<Line> row_weights = std::nullopt;  ///< [example], if there are any
  std::optional<Line> y_raw = std::nullopt;        ///< raw targets
  std::vector<FactorLines> y_factors = {};         ///< of their preparation, step by step
};

/// Whether the gradient of the features is wanted.
enum class Features : std::uint8_t { given, asked };

/// Adds a batch to a worksheet: its features, its truth if known, and its side inputs by their
/// names.
[[nodiscard]] GivenLines write_given(Worksheet& sheet, const Batch& batch);

/// The preparation of a batch on the worksheet.
struct GivenSteps {
  Preparation features = {};
  Preparation targets = {};
  bool augmented = false;  ///< examples are augmented first, as in the batch
  Features how = Features::given;

  [[nodiscard]] bool empty() const { return features.empty() && targets.empty() && !augmented; }
};

/// The same for a raw batch, with the steps that prepare it: `raw`, the numbers drawn for its
/// augmentation and `augmented`, `centre`, `divisor`, and `x`, calculated from them.
[[nodiscard]] GivenLines write_given(Worksheet& sheet, const Batch& measured,
                                     const GivenSteps& steps);

/// Adds the calculation of raw numbers from prepared ones.
[[nodiscard]] Line write_raw(const Line& prepared, const std::vector<FactorLines>& factors);

}  // namespace lattice
