#pragma once

#include <nlohmann/json.hpp>

#include "lattice/learning/training.hpp"
#include "lattice/learning/worked_example.hpp"

namespace lattice {

/// JSON whose members stay in the order in which they are written.
using Json = nlohmann::ordered_json;

/// The numbers of a tensor as nested arrays, in full; a plain number for rank 0. NaN and infinity
/// become null, as JSON has no word for them.
[[nodiscard]] Json to_json(const Tensor& tensor);

/// The extents as an array.
[[nodiscard]] Json to_json(const Shape& shape);

/// A worked example: rows, lines, reverse steps, gradients, updates, and the loss before and after.
[[nodiscard]] Json to_json(const WorkedExample& example);

/// Where a number came from, in names and with numbers filled in, in full.
[[nodiscard]] Json to_json(const Explanation& explanation);

/// The explanation, and under `because` those of the numbers it shows.
[[nodiscard]] Json to_json(const Chain& chain);

/// `agrees`, `step`, `tolerance`, and for each weight what was checked and where the error is
/// worst.
[[nodiscard]] Json to_json(const GradientCheck& check);

/// The figures of a run, epoch by epoch.
[[nodiscard]] Json to_json(const RunRecord& run);

}  // namespace lattice
