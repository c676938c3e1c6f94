#pragma once

#include <cstdint>
#include <vector>

#include "lattice/data/row_set.hpp"
#include "lattice/judging/loss.hpp"
#include "lattice/learning/layer_flow.hpp"
#include "lattice/learning/worked_sheet.hpp"
#include "lattice/network/network.hpp"

/// The activations and gradients of a deep network, layer by layer: why it learns, or does not.
namespace lattice {

/// How many rows `look_through` uses.
inline constexpr std::int64_t usual_probe = 128;

/// Measures activations and gradients by layer: a forward pass of the first rows of a set, as in
/// training, and a reverse sweep from their loss. No weight is changed.
///
/// @code
/// for (const LayerFlow& layer : look_through(net, Loss::cross_entropy, glazes.train))
///   fmt::print("{} {:.3g} {:.3g}\n", layer.layer, layer.standard_deviation, layer.gradient_norm);
/// @endcode
/// @param chance the generator for dropout
/// @throws as `check_fits` does.
[[nodiscard]] std::vector<LayerFlow> look_through(const Network& network, const Loss& loss,
                                                  const RowSet& rows,
                                                  const Random& chance = Random(1));

/// The same for a worked minibatch.
[[nodiscard]] std::vector<LayerFlow> look_through(const WorkedSheet& work, const Plan& plan);

}  // namespace lattice
