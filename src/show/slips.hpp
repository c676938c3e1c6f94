#pragma once

#include <string>
#include <string_view>
#include <vector>

#include "show/blanks.hpp"

namespace lattice {

/// What a usual slip gives in place of a number, and what to say to it.
struct Slip {
  double number;
  std::string sentence;
};

/// What is said where an answer is another number of the same table.
inline constexpr std::string_view another_number = "That is {number}.";

/// The usual slips at a blank, the likeliest first: the sign, the weight before the update, a step
/// the other way, the mean over the rows, half and twice, rows and columns exchanged, a term that
/// is missing.
[[nodiscard]] std::vector<Slip> slips_at(const WorkTables& tables, const Blank& blank);

/// What may have gone wrong, where an answer is what a slip gives, or another number of the table;
/// else empty.
/// @param open the blanks whose numbers are not to be told
[[nodiscard]] std::string diagnosis(const WorkTables& tables, const Blank& blank, double answer,
                                    const std::vector<WorkTables::Spot>& open);

}  // namespace lattice
