#include "lattice/tensor/random.hpp"

#include <gtest/gtest.h>

#include <algorithm>

#include "lattice/tensor/tensor.hpp"
#include "lattice/text/error.hpp"

namespace lattice {
namespace {

TEST(random, gives_the_same_numbers_for_the_same_seed) {
  Random a(42);
  Random b(42);
  Random c(43);
  const std::uint64_t first = a.bits();
  EXPECT_EQ(first, b.bits());
  EXPECT_NE(first, c.bits());
}

// The first outputs of xoshiro256++ seeded by splitmix64 from 0, worked apart with whole numbers of
// any size.
TEST(random, follows_its_source) {
  Random random(0);
  EXPECT_EQ(random.bits(), 0x53175d61490b23dfULL);
  EXPECT_EQ(random.bits(), 0x61da6f3dc380d507ULL);
  EXPECT_EQ(random.bits(), 0x5c0fdf91ec9a7bfcULL);
}

TEST(random, branches_without_drawing) {
  Random a(1);
  const Random untouched = a;
  Random rows = a.branch("rows");
  Random start = a.branch("start");
  EXPECT_NE(rows.bits(), start.bits());
  Random again = untouched.branch("rows");
  EXPECT_EQ(a.branch("rows").bits(), again.bits());
}

TEST(random, stays_in_range) {
  Random random(3);
  for (int i = 0; i < 1000; ++i) {
    const double number = random.uniform(-2.0, 3.0);
    EXPECT_GE(number, -2.0);
    EXPECT_LT(number, 3.0);
    const std::int64_t whole = random.below(7);
    EXPECT_GE(whole, 0);
    EXPECT_LT(whole, 7);
  }
  EXPECT_EQ(random.below(1), 0);
}

TEST(random, shuffles_every_number_once) {
  Random random(4);
  std::vector<std::int64_t> order = random.shuffled(100);
  EXPECT_FALSE(std::ranges::is_sorted(order));
  std::ranges::sort(order);
  for (std::int64_t i = 0; i < 100; ++i)
    EXPECT_EQ(order[static_cast<std::size_t>(i)], i);
  EXPECT_TRUE(random.shuffled(0).empty());
}

TEST(random_permutation, has_every_number_once) {
  Random random(3);
  std::vector<double> numbers = random_permutation(50, random).numbers();
  EXPECT_FALSE(std::ranges::is_sorted(numbers));
  std::ranges::sort(numbers);
  EXPECT_EQ(numbers, evenly_spaced(0, 49, 50).numbers());
  EXPECT_THROW(static_cast<void>(random_permutation(0, random)), ShapeError);
}

}  // namespace
}  // namespace lattice
