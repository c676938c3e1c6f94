#pragma once

#include <string>
#include <vector>

#include "lattice/data/table.hpp"
#include "lattice/judging/model.hpp"

/// Records on the command line.
namespace lattice::tools {

/// The columns that a model takes, in their order.
[[nodiscard]] std::vector<std::string> feature_columns(const Model& model);

/// Reads `thickness=4.1,hours=30` records, or `4.1,30` in the order of the columns, into one table.
/// @throws NameError for a feature that the model does not know, is said twice, or is missing.
[[nodiscard]] Table records_table(const std::vector<std::string>& records, const Model& model);

}  // namespace lattice::tools
