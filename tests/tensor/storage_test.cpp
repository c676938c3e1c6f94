#include "lattice/tensor/detail/storage.hpp"

#include <gtest/gtest.h>

#include <fstream>
#include <string>

#include "lattice/core.hpp"

namespace lattice {
namespace {

/// Memory that the process holds, in pages.
long pages_held() {
  std::ifstream file("/proc/self/statm");
  long all = 0;
  long held = 0;
  file >> all >> held;
  return held;
}

TEST(storage, starts_on_a_cache_line_and_has_room_for_whole_registers) {
  for (const std::int64_t count : {1, 7, 8, 9, 31, 33, 100, 1000, 12345}) {
    for (const Precision precision : {Precision::double_, Precision::single}) {
      Tensor tensor = constant({count}, 1.0, precision);
      const void* const numbers = precision == Precision::double_
                                      ? static_cast<const void*>(tensor.data<double>())
                                      : static_cast<const void*>(tensor.data<float>());
      EXPECT_EQ(reinterpret_cast<std::uintptr_t>(numbers) % 64, 0U);
      EXPECT_EQ((2 * tensor).numbers(), std::vector<double>(static_cast<std::size_t>(count), 2.0));
    }
  }
}

TEST(storage, is_used_again_by_the_next_tensor_of_its_size) {
  const double* first = nullptr;
  {
    const Tensor tensor = ones({50});
    first = tensor.data<double>();
  }
  const Tensor next = zeros({50});
  EXPECT_EQ(next.data<double>(), first);
}

TEST(storage, does_not_grow_with_the_number_of_steps) {
#if defined(LATTICE_WATCHES_MEMORY)
  GTEST_SKIP() << "the sanitizer holds on to memory that was given back";
#endif
  const Dataset kiln = demo_set("kiln");
  const auto train_for = [&](std::int64_t epochs) {
    Network net(Shape{1}, "dense 1", Random(1));
    static_cast<void>(train(
        net, {.train = kiln},
        {.rule = Descent{.rate = 0.001}, .epochs = epochs, .batch = 6, .judge_every = epochs}));
  };
  train_for(10);
  const long after_100_steps = pages_held();
  train_for(1000);
  EXPECT_LE(pages_held(), after_100_steps + 32);
}

TEST(storage, refuses_what_no_machine_holds_before_it_asks_for_it) {
  EXPECT_THROW(static_cast<void>(zeros({1'000'000, 1'000'000})), MemoryError);
  EXPECT_THROW(static_cast<void>(zeros({2'000'000'000, 2'000'000'000})), ShapeError);
  const Tensor column = zeros({1'000'000, 1});
  const Tensor row = zeros({1, 1'000'000});
  EXPECT_THROW(static_cast<void>(matmul(column, row)), MemoryError);
  EXPECT_THROW(static_cast<void>(column + row), MemoryError);
  EXPECT_THROW(static_cast<void>(pad(column, 1, {.after = 2'000'000'000})), ShapeError);
  EXPECT_THROW(static_cast<void>(repeat(column, 1, 1'000'000'000)), ShapeError);
}

}  // namespace
}  // namespace lattice
