#pragma once

#include <cstdint>
#include <span>

/// Compares a figure over several runs with its variation by chance.
namespace lattice {

/// A figure over several runs.
struct OverRuns {
  double mean = 0.0;
  double deviation = 0.0;  ///< the standard deviation, over one less than the runs; 0 for one run
  std::int64_t count = 0;
};

/// @throws SettingError for no figure at all.
[[nodiscard]] OverRuns over_runs(std::span<const double> figures);

/// How far two settings are apart, run by run: run i of the one and run i of the other had the same
/// rows and the same luck.
struct Difference {
  OverRuns difference = {};     ///< of the second less the first
  double margin = 0.0;          ///< chance alone explains means up to this, in 95 of 100 cases
  bool is_significant = false;  ///< whether it is farther than that
};

/// Sets two settings side by side. Folds share most of the rows they learn from, so that over folds
/// it is a little too sure.
/// Source: the paired t-test (Student, 1908).
/// @throws SettingError unless both have the same number of figures, two or more.
[[nodiscard]] Difference difference_of(std::span<const double> first,
                                       std::span<const double> second);

}  // namespace lattice
