#include "lattice/tensor/threads.hpp"

#include <fmt/format.h>

#ifdef _OPENMP
#include <omp.h>
#endif

#include "lattice/tensor/error.hpp"

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

}  // namespace

Threads::Threads(int most) : before_(asked) {
  if (most < 1) {
    throw SettingError({.what = "a calculation needs a thread",
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
