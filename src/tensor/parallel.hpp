#pragma once

#include <cstdint>

#include "lattice/tensor/threads.hpp"

namespace lattice {

/// Calls `work(0)` to `work(count − 1)`, spread over as many threads as are allowed. `work` must
/// not throw, and must not depend on the order.
template <class Work>
void in_parallel(std::int64_t count, Work work) {
#ifdef _OPENMP
  const int threads = count > 1 ? Threads::allowed() : 1;
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
