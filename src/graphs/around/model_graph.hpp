#pragma once

#include <cstdint>

#include "lattice/data/dataset.hpp"
#include "lessons/model_reader.hpp"

/// The graph in a model file, which a network with `neighbours` is asked about.
namespace lattice::model_files {

[[nodiscard]] Json graph_json(const Dataset& graph);

/// @param features how many a node has
/// @throws FileError for what is no graph.
[[nodiscard]] Dataset graph_in(const Reader& reader, std::int64_t features, Precision precision);

}  // namespace lattice::model_files
