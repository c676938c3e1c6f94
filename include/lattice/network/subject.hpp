#pragma once

#include <optional>
#include <string_view>
#include <vector>

#include "lattice/data/demo_sets.hpp"
#include "lattice/data/own_scaling.hpp"
#include "lattice/data/row_kind.hpp"
#include "lattice/network/blueprint.hpp"

namespace lattice {

/// What a kind of data, such as pictures or graphs, brings along to the core. A program that works
/// with it calls `use` once, or includes the subject's header, which does so.
struct Subject {
  std::string_view name;  ///< `pictures`
  std::optional<RowKind> rows = std::nullopt;
  std::vector<LayerWord> layers = {};  ///< that blueprints can name
  ProposeProjection projection = nullptr;
  std::vector<ScalingWord> scalings = {};  ///< that lessons can name
  std::vector<DemoSet> demo_sets = {};
};

/// Makes a subject known to everything that reads words. A second call for it does nothing.
/// @returns true, so that a global variable can be initialised by it
bool use(const Subject& subject);

}  // namespace lattice
