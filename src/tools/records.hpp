#pragma once

#include <string>
#include <vector>

#include "lattice/data/table.hpp"
#include "lattice/files/pictures.hpp"
#include "lattice/judging/model.hpp"
#include "lattice/lessons/model_file.hpp"
#include "tools/console.hpp"

/// Records on the command line.
namespace lattice::tools {

/// The columns that a model takes, in their order.
[[nodiscard]] std::vector<std::string> feature_columns(const Model& model);

/// Reads `thickness=4.1,hours=30` records, or `4.1,30` in the order of the columns, into one table.
/// @throws NameError for a feature that the model does not know, is said twice, or is missing.
[[nodiscard]] Table records_table(const std::vector<std::string>& records, const Model& model);

/// True for a model that learnt from pictures.
[[nodiscard]] bool takes_pictures(const Model& model);

/// Refuses records for a model of a graph, which is asked about nodes, and nodes for any other.
void check_fits_graph(const Model& model, bool asks_of_nodes, bool asks_of_records);

/// The nodes of some names. @throws NameError for one that is not there.
[[nodiscard]] std::vector<std::int64_t> nodes_called(const Dataset& graph,
                                                     const std::vector<std::string>& names);

/// Reads pictures and makes of them what the model takes: what was done to those that it learnt
/// from, then whatever their size and colours still ask for, which is told.
/// @throws FileError, ShapeError where that cannot be.
[[nodiscard]] PicturesAlone pictures_for(const ModelFile& file,
                                         const std::vector<std::string>& paths, Console& console);

/// Reads pictures with their classes as a dataset that the model can be assessed by.
/// @throws as above; NameError for a class that the model does not know.
[[nodiscard]] Dataset labelled_pictures_for(const ModelFile& file, const std::string& path,
                                            const std::string& labels, Console& console);

}  // namespace lattice::tools
