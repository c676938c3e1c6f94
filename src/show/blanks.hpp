#pragma once

#include <vector>

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
/// from 0, or from what they were before an update, that neither is right.
/// @throws SettingError when there are not so many; NameError, IndexError for a named one that is
///         not there or is not calculated.
[[nodiscard]] std::vector<Blank> choose_blanks(const WorkTables& tables, const Exercise& exercise);

}  // namespace lattice
