#include "lattice/tensor/threads.hpp"

#include <gtest/gtest.h>

#include <atomic>
#include <new>
#include <thread>

#include "lattice/core.hpp"
#include "tensor/parallel.hpp"

namespace lattice {
namespace {

/// A training step that is large enough to be spread over threads.
std::vector<Tensor> step_on(int count) {
  const Threads threads(count);
  Random random(1);
  const Precision precision = Precision::single;
  Worksheet sheet;
  const Line x = sheet.given("x", normal({1100, 300}, 0, 1, random, precision));
  const Line W = sheet.weight("W", normal({300, 1100}, 0, 0.1, random, precision));
  const Line V = sheet.weight("V", normal({1100, 20}, 0, 0.1, random, precision));
  const Line cost = mean(square(matmul(tanh(matmul(x, W)), V)));
  const Gradients gradients = reverse_sweep(cost);
  return {cost.value(), gradients[W], gradients[V]};
}

TEST(threads, never_change_the_bits) {
  const std::vector<Tensor> on_one = step_on(1);
  EXPECT_EQ(step_on(2), on_one);
  EXPECT_EQ(step_on(4), on_one);
}

TEST(threads, are_allowed_until_the_end_of_the_block_and_on_one_thread_only) {
  const int before = Threads::allowed();
  {
    const Threads three(3);
    EXPECT_EQ(Threads::allowed(), 3);
    {
      const Threads one(1);
      EXPECT_EQ(Threads::allowed(), 1);
    }
    EXPECT_EQ(Threads::allowed(), 3);
    int elsewhere = 0;
    std::thread([&] { elsewhere = Threads::allowed(); }).join();
    EXPECT_EQ(elsewhere, before);
  }
  EXPECT_EQ(Threads::allowed(), before);
  EXPECT_THROW(Threads(0), SettingError);
}

TEST(threads, hand_on_what_is_thrown_in_one_of_them) {
  for (const int count : {1, 2, 4}) {
    const Threads threads(count);
    EXPECT_THROW(in_parallel(100, std::int64_t{1} << 40,
                             [](std::int64_t i) {
                               if (i % 7 == 3) throw std::bad_alloc();
                             }),
                 std::bad_alloc);
    std::atomic<std::int64_t> sum = 0;
    in_parallel(100, std::int64_t{1} << 40, [&](std::int64_t i) { sum += i; });
    EXPECT_EQ(sum, 4950);
  }
}

}  // namespace
}  // namespace lattice
