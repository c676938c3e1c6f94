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

/// One worked minibatch of a run, answers of a network, or any other calculation.
struct WorkedStep {
  std::int64_t step = 1;   ///< of the run, from 1; 0 for answers, and without updates
  std::int64_t epoch = 1;  ///< from 1; 0 where the data are not dealt out
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

/// The full record of one or more worked sheets, such as minibatches: terminal, page, spreadsheet,
/// graph and JSON show this, and calculate nothing.
struct WorkedExample {
  std::string title = {};                        ///< data and network in short
  std::vector<std::string> about = {};           ///< the settings in short
  AxisNames names = {};                          ///< of the data
  std::vector<WorkedStep> steps = {};            ///< in the order of the run
  std::vector<WorkedStep> further = {};          ///< after these, for a page that goes on
  std::optional<RunRecord> run = std::nullopt;   ///< if it was trained to its end
  std::vector<Reference> references = {};        ///< the results of others
  std::optional<AnyRow> any_row = std::nullopt;  ///< of a table
};

/// The settings of a worksheet that is worked as an example.
struct SheetSettings {
  std::string title = {};
  AxisNames names = {};                           ///< of positions, by the roles of axes
  std::optional<UpdateRule> rule = std::nullopt;  ///< without one, no weight is updated
  std::optional<double> clip_norm = std::nullopt;
  std::vector<std::int64_t> steps = {1};  ///< which updates are shown, from 1
  std::int64_t further = 0;               ///< updates after the last of them, with a rule
  Batch rows = {};                        ///< of the data, if there are any
};

/// A worksheet as a worked example: its lines, the sweep from one of them and, with a rule, the
/// update; for several steps the lines are worked again with the updated weights.
///
/// @code
/// Worksheet sheet;
/// const Line w = sheet.weight("w", tensor(3));
/// const Line cost = named("cost", square(w - 1));
/// const WorkedExample example = work_sheet(
///     std::move(sheet), cost, {.title = "Down a parabola", .rule = Descent{.rate = 0.1}});
/// @endcode
/// `write_page`, `write_spreadsheet` and the other forms take it from there.
/// @throws as `ReverseSweep` does for the result; SettingError for too many lines, for steps below
///         1, and for later steps without a rule.
[[nodiscard]] WorkedExample work_sheet(Worksheet sheet, const Line& result,
                                       const SheetSettings& settings = {});

}  // namespace lattice
