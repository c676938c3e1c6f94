#include "lattice/text/printing.hpp"

#include <fmt/core.h>
#include <gtest/gtest.h>

#include <sstream>

#include "lattice/core.hpp"

namespace lattice {
namespace {

template <class T>
std::string streamed(const T& value) {
  std::ostringstream stream;
  stream << value;
  return stream.str();
}

TEST(printing, is_the_same_by_fmt_and_by_a_stream) {
  Worksheet sheet;
  const Line x = sheet.given("x", tensor({{1, 2}, {3, 4}}));
  const Line W = sheet.weight("W", tensor({{1}, {2}}));
  const Line z = named("z", matmul(x, W));
  const Line cost = named("cost", sum(z));
  const Gradients gradients = reverse_sweep(cost);
  EXPECT_EQ(fmt::format("{}", Shape{2, 3}), "[2 × 3]");
  EXPECT_EQ(streamed(Shape{2, 3}), "[2 × 3]");
  EXPECT_EQ(fmt::format("{}", Index{1, 2}), "[1,2]");
  EXPECT_EQ(streamed(Index{1, 2}), "[1,2]");
  EXPECT_EQ(fmt::format("{}", x.value()), to_string(x.value()));
  EXPECT_EQ(streamed(x.value()), to_string(x.value()));
  EXPECT_EQ(fmt::format("{}", z), "z = x·W\n" + to_string(z.value()));
  EXPECT_EQ(streamed(x), "x\n" + to_string(x.value()));
  EXPECT_EQ(fmt::format("{}", gradients), "∂W\n" + to_string(gradients["W"]));
  EXPECT_EQ(streamed(gradients), to_string(gradients));
  EXPECT_EQ(streamed(explain(z, {1, 0})), explain(z, {1, 0}).text());
}

TEST(printing, is_filled_up_to_a_width_where_that_is_asked) {
  EXPECT_EQ(fmt::format("{:>9}|{:<9}|{:*^9}", Shape{2, 3}, Index{1, 2}, Shape{7}),
            "  [2 × 3]|[1,2]    |***[7]***");
}

}  // namespace
}  // namespace lattice
