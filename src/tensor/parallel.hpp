#pragma once

#include <cstdint>

#include "lattice/tensor/threads.hpp"

namespace lattice {

/// Work of fewer multiplications than this is done before another thread has woken up.
inline constexpr std::int64_t worth_a_thread = 4'000'000;

/// How many of the threads that are wanted the machine really starts for who calls; they are tried
/// once. The library that spreads the work would end the program where one is missing.
[[nodiscard]] int threads_to_be_had(int wanted);

/// Calls `work(0)` to `work(count − 1)`, spread over as many threads as are allowed when it is
/// worth it. `work` must not throw, and must not depend on the order.
/// @param multiplications about how many there are in all
template <class Work>
void in_parallel(std::int64_t count, std::int64_t multiplications, Work work) {
#ifdef _OPENMP
  const bool is_worth_it = count > 1 && multiplications >= worth_a_thread;
  const int threads = is_worth_it ? threads_to_be_had(Threads::allowed()) : 1;
  if (threads > 1) {
#pragma omp parallel for num_threads(threads) schedule(dynamic)
    for (std::int64_t i = 0; i < count; ++i)
      work(i);
    return;
  }
#endif
  for (std::int64_t i = 0; i < count; ++i)
    work(i);
}

}  // namespace lattice
