#pragma once

#include "lattice/learning/worked_example.hpp"
#include "show/workbook.hpp"

namespace lattice {

/// Writes two sheets into a workbook: `rows`, with the data, and `any row`, in which a row of them
/// is chosen by its number. There are its answer, its probabilities as bars beside the truth, a
/// tally over a minibatch, and every number on the way from what was measured: all formulas, over
/// the weights of that minibatch.
/// @param minibatch laid out in the same book
void write_any_row(Workbook& book, const AnyRow& any_row, const Work& minibatch);

}  // namespace lattice
