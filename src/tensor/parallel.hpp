#pragma once

#include <atomic>
#include <cstdint>
#include <exception>

#include "lattice/tensor/threads.hpp"

#ifdef _OPENMP
#include <omp.h>
#endif

namespace lattice {

/// Work of fewer multiplications than this is done before another thread has woken up.
inline constexpr std::int64_t worth_a_thread = 4'000'000;

/// So many multiplications of a product are done while one number is read and another written.
inline constexpr std::int64_t multiplications_a_number = 16;

/// How many of the threads that are wanted the machine really starts for who calls; they are tried
/// once. The library that spreads the work would end the program where one is missing.
[[nodiscard]] int threads_to_be_had(int wanted);

/// Over how many threads so many pieces of work are spread, where it is worth it.
/// @param multiplications about how many there are in all
[[nodiscard]] inline int threads_for([[maybe_unused]] std::int64_t count,
                                     [[maybe_unused]] std::int64_t multiplications) {
#ifdef _OPENMP
  if (count > 1 && multiplications >= worth_a_thread) {
    const int threads = threads_to_be_had(Threads::allowed());
    return threads < count ? threads : static_cast<int>(count);
  }
#endif
  return 1;
}

/// Calls `work(0, thread)` to `work(count − 1, thread)` on so many threads, which are counted from
/// 0. What it makes must not depend on the order. Where it throws, as for want of memory, the
/// others are left undone where they have not begun, and the first that was thrown is thrown on.
template <class Work>
void on_threads([[maybe_unused]] int threads, std::int64_t count, Work work) {
#ifdef _OPENMP
  if (threads > 1) {
    // Nothing may be thrown through the end of what threads do together.
    std::exception_ptr thrown;
    std::atomic_flag has_thrown;
#pragma omp parallel for num_threads(threads) schedule(dynamic)
    for (std::int64_t i = 0; i < count; ++i) {
      if (has_thrown.test(std::memory_order_relaxed)) continue;
      try {
        work(i, omp_get_thread_num());
      } catch (...) {
        if (!has_thrown.test_and_set()) thrown = std::current_exception();
      }
    }
    if (thrown) std::rethrow_exception(thrown);
    return;
  }
#endif
  for (std::int64_t i = 0; i < count; ++i)
    work(i, 0);
}

/// Calls `work(0)` to `work(count − 1)`, spread over as many threads as are allowed when it is
/// worth it. `work` must not depend on the order; what it throws is thrown on.
/// @param multiplications about how many there are in all
template <class Work>
void in_parallel(std::int64_t count, std::int64_t multiplications, Work work) {
  on_threads(threads_for(count, multiplications), count, [&work](std::int64_t i, int) { work(i); });
}

/// Calls `work(start, length)` for pieces of so many numbers that are read and written, each by
/// itself; spread over threads as in_parallel does, and else all as one piece. A piece starts at a
/// multiple of 16.
template <class Work>
void in_pieces(std::int64_t count, Work work) {
  constexpr std::int64_t most = 1 << 14;
  if (count * multiplications_a_number < worth_a_thread) return work(std::int64_t{0}, count);
  const std::int64_t pieces = (count + most - 1) / most;
  in_parallel(pieces, count * multiplications_a_number, [&](std::int64_t piece) {
    const std::int64_t start = piece * most;
    work(start, count - start < most ? count - start : most);
  });
}

}  // namespace lattice
