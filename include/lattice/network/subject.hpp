#pragma once

#include <optional>
#include <string_view>
#include <vector>

#include "lattice/data/demo_sets.hpp"
#include "lattice/data/own_scaling.hpp"
#include "lattice/data/row_kind.hpp"
#include "lattice/network/blueprint.hpp"
#include "lattice/worksheet/sheet_functions.hpp"

namespace lattice {

/// The additions of a kind of data, such as pictures or graphs, to the core. A program that needs
/// them calls `use` once, or includes the subject's header, which does so.
struct Subject {
  std::string_view name;  ///< `pictures`
  std::optional<RowKind> rows = std::nullopt;
  std::vector<LayerWord> layers = {};  ///< that blueprints can name
  ProposeProjection projection = nullptr;
  std::vector<ScalingWord> scalings = {};  ///< that lessons can name
  std::vector<DemoSet> demo_sets = {};
  std::vector<SheetFunction> functions = {};  ///< that sheets can call
};

/// Registers a subject, so that its words can be read. A second call does nothing.
/// @returns true, so that a global variable can be initialised with it
bool use(const Subject& subject);

}  // namespace lattice
