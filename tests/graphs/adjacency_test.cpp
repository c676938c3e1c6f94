#include "lattice/graphs/adjacency.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <cmath>

#include "lattice/lattice.hpp"
#include "support/said.hpp"

namespace lattice {
namespace {

using ::testing::ElementsAre;
using ::testing::HasSubstr;

/// Four in a row, and one by itself.
const std::vector<MatrixEntry> a_row = {{0, 1}, {1, 0}, {1, 2}, {2, 1}, {2, 3}, {3, 2}};

TEST(normalised_adjacency, is_the_adjacency_with_loops_scaled_by_the_root_of_both_degrees) {
  const Tensor A = sparse_matrix({5, 5}, a_row);
  const Tensor shares = normalised_adjacency(A);
  EXPECT_TRUE(shares.is_sparse());
  const double degrees[] = {2, 3, 3, 2, 1};
  for (std::int64_t i = 0; i < 5; ++i) {
    for (std::int64_t j = 0; j < 5; ++j) {
      const double joined = i == j ? 1.0 : A.at({i, j});
      EXPECT_NEAR(shares.at({i, j}), joined / std::sqrt(degrees[i] * degrees[j]), 1e-15);
    }
  }
  EXPECT_TRUE(agreement(shares, normalised_adjacency(tensor({5, 5}, A.numbers())), 1e-15).agrees);
}

TEST(normalised_adjacency, scales_the_columns_of_a_directed_graph_by_what_is_sent_out) {
  const Tensor A = sparse_matrix({3, 3}, {{1, 0}, {2, 0, 0.5}});
  const Tensor shares = normalised_adjacency(A);
  EXPECT_NEAR(shares.at({1, 0}), 1.0 / std::sqrt(2.0 * 2.5), 1e-15);
  EXPECT_NEAR(shares.at({2, 0}), 0.5 / std::sqrt(1.5 * 2.5), 1e-15);
  EXPECT_EQ(shares.at({0, 1}), 0.0);
}

TEST(normalised_adjacency, writes_every_step_down_so_that_it_can_be_asked) {
  Worksheet sheet;
  const Line shares = normalised_adjacency(sheet.given("A", sparse_matrix({5, 5}, a_row)));
  EXPECT_EQ(sheet.size(), 5U);
  EXPECT_EQ(sheet.line("looped").symbols(), "A + I");
  EXPECT_EQ(explain(sheet.line("looped"), {1, 1}).text(),
            "looped[1,1] = A[1,1] + 1\n"
            "            = 0 + 1\n"
            "            = 1");
  EXPECT_EQ(explain(sheet.line("degrees"), {1}).text(),
            "degrees[1] = looped[1,0] + looped[1,1] + looped[1,2]\n"
            "           = 1 + 1 + 1\n"
            "           = 3");
  EXPECT_THAT(explain(sheet.line("scale"), {1}).text(), HasSubstr("scale[1] = 1/√(degrees[1])"));
  EXPECT_THAT(explain(shares, {1, 0}).text(),
              HasSubstr("shares[1,0] = scale[1]·looped[1,0]·scale[0]"));
  EXPECT_EQ(shares.symbols(), "scaleᵢ × loopedᵢⱼ × scaleⱼ");
  EXPECT_THROW(static_cast<void>(normalised_adjacency(sheet.given("B", zeros({2, 3})))),
               ShapeError);
  EXPECT_THROW(static_cast<void>(scale_both(zeros({2, 3}), zeros({2}), zeros({2}))), ShapeError);
}

TEST(normalised_adjacency, passes_on_what_comes_back_to_an_adjacency_that_is_learnt) {
  Worksheet sheet;
  Random random(3);
  const Line A = sheet.weight("A", uniform({4, 4}, 0.1, 1.0, random));
  const Line loss =
      sum(square(matmul(normalised_adjacency(A), sheet.given("x", normal({4, 3}, 0, 1, random)))));
  EXPECT_TRUE(check_gradients(loss).agrees());
}

TEST(with_loops, adds_to_a_matrix_that_stores_nothing) {
  const Tensor none = sparse_matrix({2, 2}, std::vector<MatrixEntry>{});
  EXPECT_THAT(with_loops(none).numbers(), ElementsAre(1, 0, 0, 1));
}

TEST(normalised_adjacency, is_never_written_out_where_the_graph_is_large) {
  constexpr std::int64_t nodes = 100'000;
  std::vector<MatrixEntry> ring;
  for (std::int64_t node = 0; node < nodes; ++node) {
    ring.push_back({node, (node + 1) % nodes});
    ring.push_back({(node + 1) % nodes, node});
  }
  const Tensor A = sparse_matrix({nodes, nodes}, ring);
  const Tensor shares = normalised_adjacency(A);
  EXPECT_EQ(stored_count(shares), 3 * nodes);
  EXPECT_NEAR(shares.at({0, nodes - 1}), 1.0 / 3.0, 1e-15);
  Worksheet sheet;
  const Line y = matmul(sheet.given("shares", shares), sheet.weight("x", ones({nodes, 2})));
  EXPECT_NEAR(y.value().at({5, 1}), 1.0, 1e-15);
  EXPECT_EQ(explain(y, {0, 1}).formula.cells().size(), 6U);
  EXPECT_FALSE(watch(sheet));
  const std::string said = testing::said<MemoryError>([&] { static_cast<void>(A.numbers()); });
  EXPECT_THAT(said, HasSubstr("too large for a dense copy"));
  EXPECT_THAT(said, HasSubstr("[100000 × 100000], of which 200000 are stored"));
}

}  // namespace
}  // namespace lattice
