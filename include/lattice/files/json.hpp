#pragma once

#include <nlohmann/json_fwd.hpp>
#include <string>
#include <string_view>

#include "lattice/judging/assess.hpp"
#include "lattice/learning/run_record.hpp"
#include "lattice/learning/worked_example.hpp"
#include "lattice/network/network.hpp"

namespace lattice {

/// JSON whose members stay in the order in which they are written. Who looks inside one includes
/// <nlohmann/json.hpp>.
using Json = nlohmann::ordered_json;

/// A document as text; bytes that are not UTF-8 become �.
/// @param indent how far each level is moved in; below 0 all stands in one line
[[nodiscard]] std::string json_text(const Json& json, int indent = -1);

/// A document from text. @throws FileError that says where it breaks off.
[[nodiscard]] Json parse_json(std::string_view text);

/// A document in fewer bytes (RFC 8949), and back. @throws FileError that says where it breaks off.
[[nodiscard]] std::string to_cbor(const Json& json);
[[nodiscard]] Json parse_cbor(std::string_view bytes);

/// The numbers of a tensor as nested arrays, in full; a plain number for rank 0. NaN and infinity
/// become null, as JSON has no word for them.
[[nodiscard]] Json to_json(const Tensor& tensor);

/// The extents as an array.
[[nodiscard]] Json to_json(const Shape& shape);

/// What the axes of a shape stand for, word by word; empty where nobody says.
[[nodiscard]] Json roles_of(const Shape& shape);

/// A worked minibatch: rows, lines, reverse steps, gradients, updates with what the rule remembered
/// and worked out, and the loss before and after.
[[nodiscard]] Json to_json(const WorkedSheet& work);

/// A worked example, as `docs/schemas/worked_example.schema.json` describes it.
[[nodiscard]] Json to_json(const WorkedExample& example);

/// Where a number came from, in names and with numbers filled in, in full.
[[nodiscard]] Json to_json(const Explanation& explanation);

/// The explanation, and under `because` those of the numbers it shows.
[[nodiscard]] Json to_json(const Chain& chain);

/// `agrees`, `step`, `tolerance`, and for each weight what was checked and where the error is
/// worst.
[[nodiscard]] Json to_json(const GradientCheck& check);

/// The figures of a run: epochs, recorded steps, changes of the rate, joins, how it ended.
[[nodiscard]] Json to_json(const RunRecord& run);

/// A plan: layers with their outputs and weights, and the total.
[[nodiscard]] Json to_json(const Plan& plan);

/// What passes through the layers of a network.
[[nodiscard]] Json to_json(const std::vector<LayerFlow>& layers);
[[nodiscard]] Json to_json(const Plan::Row& row);

/// How good a network is on a part: `rows`, `loss`, and for classes `accuracy` and what goes with
/// it, for numbers, target by target, `mean_squared`, `mean_absolute` and `r_squared`.
[[nodiscard]] Json to_json(const Assessment& assessment);

/// What others reached: a name and a figure each.
[[nodiscard]] Json to_json(const std::vector<Reference>& references);

}  // namespace lattice
