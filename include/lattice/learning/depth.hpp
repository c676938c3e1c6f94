#pragma once

#include <cstdint>
#include <vector>

#include "lattice/data/row_set.hpp"
#include "lattice/judging/loss.hpp"
#include "lattice/learning/layer_flow.hpp"
#include "lattice/learning/worked_sheet.hpp"
#include "lattice/network/network.hpp"

/// What passes through a deep network, layer by layer: why it learns, or does not.
namespace lattice {

/// So many rows tell how a network is.
inline constexpr std::int64_t usual_probe = 128;

/// Looks at what passes through a network: the first rows of a set go there, as while it learns,
/// and the gradient of their loss comes back. Nothing is learnt.
///
/// @code
/// for (const LayerFlow& layer : look_through(net, Loss::cross_entropy, glazes.train))
///   fmt::print("{} {:.3g} {:.3g}\n", layer.layer, layer.standard_deviation, layer.gradient_norm);
/// @endcode
/// @param chance what dropout draws from
/// @throws as `check_fits` does.
[[nodiscard]] std::vector<LayerFlow> look_through(const Network& network, const Loss& loss,
                                                  const RowSet& rows,
                                                  const Random& chance = Random(1));

/// The same of a minibatch that was worked.
[[nodiscard]] std::vector<LayerFlow> look_through(const WorkedSheet& work, const Plan& plan);

}  // namespace lattice
