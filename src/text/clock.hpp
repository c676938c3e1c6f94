#pragma once

#include <chrono>

namespace lattice {

/// Seconds since some moment in the past, the same one for the whole program. Headers that users
/// include keep times as such numbers, so that no program compiles the library of clocks for them.
[[nodiscard]] inline double seconds_now() {
  const std::chrono::duration<double> since = std::chrono::steady_clock::now().time_since_epoch();
  return since.count();
}

}  // namespace lattice
