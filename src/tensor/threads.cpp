#include "lattice/tensor/threads.hpp"

#include <fmt/format.h>

#include <exception>
#include <latch>
#include <thread>
#include <vector>

#ifdef _OPENMP
#include <omp.h>
#endif

#include "lattice/text/error.hpp"
#include "tensor/parallel.hpp"

namespace lattice {
namespace {

/// What `Threads` asked for on this thread; 0 when there is none.
constinit thread_local int asked = 0;

int usual() {
#ifdef _OPENMP
  return omp_get_max_threads();
#else
  return 1;
#endif
}

/// So many threads were started at once on this thread before.
constinit thread_local int had = 1;

}  // namespace

int threads_to_be_had(int wanted) {
  if (wanted <= had) return wanted;
  std::latch all_tried(1);
  std::vector<std::jthread> others;
  try {
    while (std::ssize(others) + 1 < wanted)
      others.emplace_back([&] { all_tried.wait(); });
  } catch (const std::exception&) {
    // These are all there are.
  }
  all_tried.count_down();
  had = static_cast<int>(others.size()) + 1;
  return had;
}

Threads::Threads(int most) : before_(asked) {
  if (most < 1) {
    throw SettingError({.what = "a calculation needs at least one thread",
                        .expected = "1 or more",
                        .found = fmt::format("{}", most)});
  }
  asked = most;
}

Threads::~Threads() {
  asked = before_;
}

int Threads::allowed() {
  return asked > 0 ? asked : usual();
}

}  // namespace lattice
