#pragma once

#include <filesystem>

#include "lattice/learning/worked_example.hpp"
#include "lattice/show/exercise.hpp"

namespace lattice {

/// The largest number of calculated cells in a spreadsheet.
inline constexpr std::int64_t most_formula_cells = 200'000;

/// Writes a worked example as a spreadsheet (.xlsx, ECMA-376): sheets for data, forward, reverse
/// and update, each table a block of cells. Every calculated cell is a formula with its value, so
/// that changing a weight changes the loss, the gradients and the update. A long stage has a sheet
/// for each of its sections. The results of your own functions, which spreadsheets do not have, are
/// plain numbers.
///
/// With an exercise, the blanks of the first minibatch are empty cells that turn teal for a right
/// answer and plum for a wrong one; the right answers are on the sheet `answers`.
/// @throws SettingError for more than `most_formula_cells` calculated cells, FileError when the
///         file cannot be written; as exercises do.
void write_spreadsheet(const std::filesystem::path& path, const WorkedExample& example,
                       const Exercise& exercise = {});

}  // namespace lattice
