#pragma once

#include <span>
#include <string>

#include "lattice/files/json.hpp"
#include "lattice/show/shown_subject.hpp"
#include "show/work_tables.hpp"

namespace lattice {

/// Everything that the scripts of both pages say, and what those of subjects add to it: sentences
/// by a name, with {gaps} for numbers and names. Scripts have no words of their own.
[[nodiscard]] Json page_words();

/// A number in full, as pages read it. JSON has no word for NaN and infinity: these are texts.
[[nodiscard]] Json number_in_json(double number);

/// The sentence about any number of a table that is not calculated, where it came from. Its gaps
/// are {row}, {node}, {column} and {target}, where it stands; {class}, if it names one; and
/// {augmented}, how its row is.
[[nodiscard]] std::string note_on(const WorkTables& tables, std::size_t table,
                                  const AxisNames& names);

}  // namespace lattice
