#pragma once

#include <string>

#include "lattice/learning/run_record.hpp"
#include "lattice/show/terminal.hpp"

namespace lattice {

/// The figures of a run, epoch by epoch; of a long run the first epochs, the last, and some
/// between. Below them its ending, changes of the rate, and where it was resumed.
[[nodiscard]] std::string show_run(const RunRecord& run, const TerminalStyle& style);

/// The standard deviation and the gradient norm of the output of each layer, from input to output,
/// at one or two moments. @param now may be the same as `before`
[[nodiscard]] std::string show_layer_flow(const FlowMoment& before, const FlowMoment& now,
                                          const TerminalStyle& style);

/// As `show_run`, without colours.
[[nodiscard]] std::string to_string(const RunRecord& run);

}  // namespace lattice

template <>
struct fmt::formatter<lattice::RunRecord> : lattice::detail::Printed<lattice::RunRecord> {};
