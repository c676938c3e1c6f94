#pragma once

#include <cstdint>
#include <span>

/// Luck told from skill: the same figure over several runs.
namespace lattice {

/// A figure over several runs.
struct Spread {
  double mean = 0.0;
  double deviation = 0.0;  ///< the standard deviation, over one less than the runs; 0 for one run
  std::int64_t count = 0;
};

/// @throws SettingError for no figure at all.
[[nodiscard]] Spread spread_of(std::span<const double> figures);

/// How far two settings are apart, run by run: run i of the one and run i of the other had the same
/// rows and the same luck.
struct Apart {
  Spread difference = {};   ///< of the second less the first
  double luck = 0.0;        ///< how far the mean may be from 0 by luck, in 95 of 100 cases
  bool stands_out = false;  ///< whether it is farther than that
};

/// Sets two settings side by side. Folds share most of the rows they learn from, so that over folds
/// it is a little too sure.
/// Source: the paired t-test (Student, 1908).
/// @throws SettingError unless both have the same number of figures, two or more.
[[nodiscard]] Apart apart(std::span<const double> first, std::span<const double> second);

}  // namespace lattice
