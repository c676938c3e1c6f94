#pragma once

#include <optional>
#include <string>
#include <vector>

#include "lattice/data/summary.hpp"
#include "lattice/learning/remarks.hpp"
#include "lattice/learning/run_record.hpp"
#include "lattice/network/network.hpp"
#include "lattice/show/terminal.hpp"

/// Text for what comes before a network is judged: data, plan, run.
namespace lattice {

/// Columns with range, mean and spread, class counts, and the first rows.
[[nodiscard]] std::string show_data(const Dataset& data, const TerminalStyle& style);

/// A network part by part: outputs, weights, and the total.
[[nodiscard]] std::string show_plan(const Plan& plan, const TerminalStyle& style);

/// The figures of a run, epoch by epoch; of a long run the first epochs, the last, and some
/// between. Below them how it ended, changes of the rate, and where it was gone on with.
[[nodiscard]] std::string show_run(const RunRecord& run, const TerminalStyle& style);

/// A remark: its code, what was noticed, what to try.
[[nodiscard]] std::string show_remark(const Remark& remark, const TerminalStyle& style);

}  // namespace lattice
