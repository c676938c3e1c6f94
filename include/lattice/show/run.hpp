#pragma once

#include <string>

#include "lattice/learning/run_record.hpp"
#include "lattice/show/terminal.hpp"

namespace lattice {

/// The figures of a run, epoch by epoch; of a long run the first epochs, the last, and some
/// between. Below them how it ended, changes of the rate, and where it was gone on with.
[[nodiscard]] std::string show_run(const RunRecord& run, const TerminalStyle& style);

/// What passes through the layers of a network, from what comes in to what goes out: how widely its
/// numbers are spread, and how long the gradient is that comes back; at two moments beside each
/// other, or at one. @param now may be the same as `before`
[[nodiscard]] std::string show_depth(const Depth& before, const Depth& now,
                                     const TerminalStyle& style);

/// As `show_run` writes it, without colours.
[[nodiscard]] std::string to_string(const RunRecord& run);

}  // namespace lattice

template <>
struct fmt::formatter<lattice::RunRecord> : lattice::detail::Printed<lattice::RunRecord> {};
