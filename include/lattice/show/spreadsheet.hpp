#pragma once

#include <filesystem>

#include "lattice/learning/worked_example.hpp"
#include "lattice/show/exercise.hpp"

namespace lattice {

/// The most calculated cells that one spreadsheet is given.
inline constexpr std::int64_t most_formula_cells = 200'000;

/// Writes a worked example as a spreadsheet (.xlsx, ECMA-376): sheets for data, forward, reverse
/// and update, each table a block of cells. Every calculated cell is a formula over the cells it
/// came from and carries its value; changing a weight changes the loss, the gradients, the update.
/// A long stage gets a sheet for each of its sections. A number made by a function of one's own,
/// which spreadsheets do not have, stands as it is.
///
/// With an exercise, the blanks of the first minibatch are empty cells that turn teal when they are
/// filled in rightly, and plum when not; the sheet `answers` has what is right.
/// @throws SettingError when more than `most_formula_cells` cells would be calculated, FileError
///         when the file cannot be written, as exercises do.
void write_spreadsheet(const std::filesystem::path& path, const WorkedExample& example,
                       const Exercise& exercise = {});

}  // namespace lattice
