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
  std::int64_t step = 1;   ///< of the run, from 1; 0 for answers
  std::int64_t epoch = 1;  ///< from 1; 0 likewise
  WorkedSheet work;
  std::vector<LayerFlow> flow = {};  ///< activations and gradients by layer, for networks
};

/// The largest number of rows to choose from: a spreadsheet of more is slow to open.
inline constexpr std::int64_t most_rows_to_choose = 10'000;

/// One row of the data, worked such that any other can take its place (`work_any_row`), with the
/// weights before the first worked step: for a spreadsheet in which the row is chosen.
struct AnyRow {
  Dataset rows;                         ///< raw
  std::vector<std::string> parts = {};  ///< of each row: `train`, or empty
  WorkedStep step;                      ///< one of the first `most_rows_to_choose`, worked
};

/// The full record of one or more worked minibatches: terminal, page, spreadsheet, graph and JSON
/// show this, and calculate nothing.
struct WorkedExample {
  std::string title = {};                        ///< data and network in short
  std::vector<std::string> about = {};           ///< the settings in short
  AxisNames names = {};                          ///< of the data
  std::vector<WorkedStep> steps = {};            ///< in the order of the run
  std::optional<RunRecord> run = std::nullopt;   ///< if it was trained to its end
  std::vector<Reference> references = {};        ///< the results of others
  std::optional<AnyRow> any_row = std::nullopt;  ///< of a table
};

}  // namespace lattice
