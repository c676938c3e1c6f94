#pragma once

#include <span>
#include <string>
#include <vector>

#include "lattice/learning/worked_example.hpp"
#include "lattice/show/exercise.hpp"
#include "show/work_tables.hpp"

namespace lattice {

/// One number that is left blank.
struct Blank {
  WorkTables::Spot spot;
  double within;  ///< how far an answer may be off
};

/// The numbers that an exercise leaves blank, in the order in which they are worked: those that are
/// named, and as many others as are asked for. These are calculated, have a name, and are so far
/// from 0, or from what they were before an update, that neither is right. What can be read
/// elsewhere is blank there, too, or not at all: a copy, such as m̂ in the first step of Adam, and
/// of a softmax what is left to 1.
/// @param steps those that are shown; the tables are those of the first
/// @throws SettingError when there are not so many, or for a place that is not there; NameError,
///         IndexError for a named one that is not there or is not calculated.
[[nodiscard]] std::vector<Blank> choose_blanks(const WorkTables& tables, const Exercise& exercise,
                                               std::span<const WorkedStep> steps = {});

/// Tells an exercise from others: of a title, and of the names and numbers of its blanks.
[[nodiscard]] std::string exercise_id(const std::string& title, const WorkTables& tables,
                                      const std::vector<Blank>& blanks);

}  // namespace lattice
