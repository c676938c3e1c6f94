#pragma once

#include <filesystem>
#include <string>

#include "lattice/learning/worked_sheet.hpp"

namespace lattice {

struct GraphSettings {
  bool gradients = false;  ///< the contribution of the reverse sweep beside each edge
};

/// A calculation as a graph in the DOT language: a node for each line, with its shape, weights
/// marked, and a box around each section.
[[nodiscard]] std::string graph(const WorkedSheet& work, const GraphSettings& settings = {});

/// The same, drawn by the program `dot` (package graphviz) in the format of the path's extension:
/// `.svg`, `.png`, `.pdf`, or `.dot` for the text itself.
/// @throws SettingError for another extension; ProgramError when dot is missing or fails;
/// FileError.
void write_graph(const std::filesystem::path& path, const WorkedSheet& work,
                 const GraphSettings& settings = {});

/// Refuses a path that a graph cannot be written to. @throws SettingError.
void check_graph_ending(const std::filesystem::path& path);

}  // namespace lattice
