#pragma once

#include <optional>

#include "lattice/worksheet/worksheet.hpp"

namespace lattice {

/// The mean of what each row gave, or of as much as it counts: numbers [example], or [example ×
/// output], of which each output weighs the same.
[[nodiscard]] Line mean_of_rows(const Line& numbers, const std::optional<Line>& row_weights);

}  // namespace lattice
