#pragma once

#include <vector>

#include "lattice/core.hpp"
#include "support/centred.hpp"
#include "support/pictures.hpp"

/// Pictures with two channels, and a network of layers of our own that keeps a running mean.
namespace lattice::testing {

inline const std::vector<Layer> own_layers = {Flat{}, Centred{}};

inline Split bars_in_parts() {
  Random random(3);
  return prepared(
      split(bars(400), {}, random),
      {{.kind = ScalingKind::min_max, .by = ScaledBy::whole}, {.by = ScaledBy::channel}});
}

inline Network net_for(const Dataset& data) {
  return {data.example(), parse_blueprint("centred, flat, dense 6, tanh, dense 2", own_layers),
          Random(5)};
}

}  // namespace lattice::testing
