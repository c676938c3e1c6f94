#pragma once

#include <string>
#include <vector>

#include "lattice/core.hpp"

namespace lattice::testing {

/// The smallest layer with a running statistic: it takes the mean of the minibatch away from each
/// feature, and in use the running mean of the minibatches it learnt from.
struct Centred {
  double keep = 0.9;  ///< the layer of the running mean that is kept

  [[nodiscard]] static std::string_view kind() { return "centred"; }
  [[nodiscard]] static std::string text() { return "centred"; }
  [[nodiscard]] static Shape shape(const Shape& example) { return example; }
  [[nodiscard]] static std::vector<WeightNeed> weights(const Shape& example) {
    return {{.name = "mean", .shape = example, .is_running = true}};
  }
  [[nodiscard]] Line forward(const Line& x, Pass& pass) const {
    const Line running = pass.weight("mean");
    if (!pass.phase().is_training()) return x - running;
    const Line here = lattice::named(pass.name() + ".batch", mean(x, {.axes = {0}}));
    pass.set_next("mean", keep * running + (1.0 - keep) * here);
    return x - here;
  }
};

}  // namespace lattice::testing
