#pragma once

#include <nlohmann/json_fwd.hpp>
#include <string>
#include <string_view>

#include "lattice/judging/assess.hpp"
#include "lattice/learning/run_record.hpp"
#include "lattice/learning/worked_example.hpp"
#include "lattice/network/network.hpp"

namespace lattice {

/// JSON whose members keep their order. For its members include <nlohmann/json.hpp>.
using Json = nlohmann::ordered_json;

/// A document as text; bytes that are not UTF-8 become �.
/// @param indent of each level, in spaces; below 0 for one line
[[nodiscard]] std::string json_text(const Json& json, int indent = -1);

/// A document from text. @throws FileError with the position of the error.
[[nodiscard]] Json parse_json(std::string_view text);

/// A document as CBOR (RFC 8949), and back. @throws FileError with the position of the error.
[[nodiscard]] std::string to_cbor(const Json& json);
[[nodiscard]] Json parse_cbor(std::string_view bytes);

/// The numbers of a tensor as nested arrays, in full; a plain number for rank 0. NaN and infinity
/// become null, as JSON cannot represent them.
[[nodiscard]] Json to_json(const Tensor& tensor);

/// The extents as an array.
[[nodiscard]] Json to_json(const Shape& shape);

/// The roles of the axes of a shape, as words; empty for none.
[[nodiscard]] Json roles_of(const Shape& shape);

/// A worked minibatch: rows, lines, reverse steps, gradients, updates with the memory and the
/// intermediate results of the rule, and the loss before and after.
[[nodiscard]] Json to_json(const WorkedSheet& work);

/// A worked example, as `docs/schemas/worked_example.schema.json` describes it.
[[nodiscard]] Json to_json(const WorkedExample& example);

/// An explanation, in names and with numbers, in full.
[[nodiscard]] Json to_json(const Explanation& explanation);

/// An explanation, and under `because` those of the numbers in it.
[[nodiscard]] Json to_json(const Chain& chain);

/// `agrees`, `step`, `tolerance`, and for each weight the checked numbers and the largest error.
[[nodiscard]] Json to_json(const GradientCheck& check);

/// The figures of a run: epochs, recorded steps, changes of the rate, joins, ending.
[[nodiscard]] Json to_json(const RunRecord& run);

/// A plan: layers with their outputs and weights, and the total.
[[nodiscard]] Json to_json(const Plan& plan);

/// Activations and gradients by layer.
[[nodiscard]] Json to_json(const std::vector<LayerFlow>& layers);
[[nodiscard]] Json to_json(const Plan::Row& row);

/// An assessment on a part: `rows`, `loss`, for classes `accuracy` and related figures, for numeric
/// targets, one by one, `mean_squared`, `mean_absolute` and `r_squared`.
[[nodiscard]] Json to_json(const Assessment& assessment);

/// The results of others: a name and a figure each.
[[nodiscard]] Json to_json(const std::vector<Reference>& references);

}  // namespace lattice
