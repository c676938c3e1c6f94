#pragma once

#include <filesystem>
#include <string>

#include "lattice/learning/worked_sheet.hpp"

namespace lattice {

struct GraphSettings {
  bool gradients = false;  ///< beside each edge, what the reverse sweep passes on along it
};

/// The shape of a calculation in the DOT language: a node for each line, with its shape, weights
/// marked, a box around each section.
[[nodiscard]] std::string graph(const WorkedSheet& work, const GraphSettings& settings = {});

/// The same drawn by the program `dot` (package graphviz), or as it is; the ending of the path says
/// how: `.svg`, `.png`, `.pdf`, `.dot`.
/// @throws SettingError for another ending; ProgramError when dot is missing or fails; FileError.
void write_graph(const std::filesystem::path& path, const WorkedSheet& work,
                 const GraphSettings& settings = {});

/// Refuses a path that a graph cannot be written to. @throws SettingError.
void check_graph_ending(const std::filesystem::path& path);

}  // namespace lattice
