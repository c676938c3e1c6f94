#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "lattice/data/dataset.hpp"
#include "lattice/judging/assess.hpp"
#include "lattice/learning/run_record.hpp"
#include "lattice/learning/worked_sheet.hpp"

namespace lattice {

/// One worked minibatch of a run, or answers of a network.
struct WorkedStep {
  std::int64_t step = 1;   ///< of the run, from 1; 0 for answers, which are no step of one
  std::int64_t epoch = 1;  ///< from 1; 0 likewise
  WorkedSheet work;
  std::vector<LayerFlow> depth = {};  ///< what passes through the layers, where a network wrote it
};

/// So many rows there are to choose from: a spreadsheet of more is slow to open.
inline constexpr std::int64_t most_rows_to_choose = 10'000;

/// One row of the data, worked so that it may be any other (`work_any_row`), with the weights
/// before the first worked step: for a spreadsheet in which the row is chosen.
struct AnyRow {
  Dataset rows;                         ///< as they were measured
  std::vector<std::string> parts = {};  ///< of each of them: `train`, or none
  WorkedStep step;                      ///< one of the first `most_rows_to_choose`, worked
};

/// The full record of one worked minibatch or more: terminal, page, spreadsheet, graph and JSON are
/// drawn from this, and calculate nothing.
struct WorkedExample {
  std::string title = {};                        ///< what is learnt by what, in a few words
  std::vector<std::string> about = {};           ///< the settings, a few words each
  AxisNames names = {};                          ///< of the data
  std::vector<WorkedStep> steps = {};            ///< in the order of the run
  std::optional<RunRecord> run = std::nullopt;   ///< where one was trained to its end
  std::vector<Reference> references = {};        ///< what others reached, beside the run
  std::optional<AnyRow> any_row = std::nullopt;  ///< of a table
};

}  // namespace lattice
