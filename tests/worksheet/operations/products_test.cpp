#include "lattice/worksheet/operations/products.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include "lattice/core.hpp"

namespace lattice {
namespace {

/// The product of two matrices by the definition.
Tensor by_definition(const Tensor& a, const Tensor& b) {
  Tensor result = zeros({a.shape()[0], b.shape()[1]}, a.precision());
  for (std::int64_t i = 0; i < a.shape()[0]; ++i) {
    for (std::int64_t j = 0; j < b.shape()[1]; ++j) {
      double total = 0.0;
      for (std::int64_t k = 0; k < a.shape()[1]; ++k)
        total += a.at({i, k}) * b.at({k, j});
      result.set({i, j}, total);
    }
  }
  return result;
}

// However long the rows are, and whichever loop works them.
TEST(dense, is_the_product_and_the_bias_to_the_last_bit) {
  for (const Precision precision : {Precision::double_, Precision::single}) {
    Random random(8);
    for (const std::int64_t columns : {1, 2, 3, 4, 5, 8, 13, 16, 17, 40, 600}) {
      for (const std::int64_t depth : {1, 2, 3, 5, 16, 17, 32, 33, 60}) {
        for (const std::int64_t rows : {1, 3, 4, 5, 9}) {
          const Tensor x = normal({rows, depth}, 0, 1, random, precision);
          const Tensor W = normal({depth, columns}, 0, 1, random, precision);
          const Tensor b = normal({columns}, 0, 1, random, precision);
          ASSERT_EQ(dense(x, W, b), matmul(x, W) + b) << rows << " " << depth << " " << columns;
        }
      }
    }
  }
}

TEST(dense, takes_sparse_rows) {
  const Tensor x = sparse_matrix({3, 2}, {{0, 1, 2}, {2, 0, 3}});
  const Tensor W = tensor({{1, 2}, {3, 4}});
  EXPECT_EQ(dense(x, W, tensor({10, 20})), tensor({{16, 28}, {10, 20}, {13, 26}}));
}

TEST(matmul, is_the_definition_at_every_size_and_on_every_side_of_a_tile) {
  Random random(1);
  for (const auto& [rows, depth, columns] : {std::array<std::int64_t, 3>{1, 1, 1},
                                             {1, 7, 1},
                                             {5, 1, 9},
                                             {3, 40, 2},
                                             {64, 64, 1},
                                             {1, 300, 300},
                                             {513, 3, 5},
                                             {1030, 4, 2},
                                             {2, 5, 1025}}) {
    const Tensor a = normal({rows, depth}, 0, 1, random);
    const Tensor b = normal({depth, columns}, 0, 1, random);
    EXPECT_TRUE(agreement(matmul(a, b), by_definition(a, b), 1e-13).agrees)
        << rows << " × " << depth << " × " << columns;
  }
}

// A product of few columns is worked in a way of its own, up to a size.
TEST(matmul, of_any_number_of_columns_is_the_definition_turned_or_not) {
  Random random(8);
  for (std::int64_t columns = 1; columns <= 18; ++columns) {
    for (const std::int64_t depth : {1, 7, 16, 140}) {
      for (const Precision precision : {Precision::double_, Precision::single}) {
        const double close = precision == Precision::double_ ? 1e-13 : 1e-5;
        const Tensor a = normal({9, depth}, 0, 1, random, precision);
        const Tensor b = normal({depth, columns}, 0, 1, random, precision);
        const Tensor expected = by_definition(a, b);
        const auto is_right = [&](const Tensor& product) {
          return agreement(product, expected, close).agrees;
        };
        EXPECT_TRUE(is_right(matmul(a, b))) << depth << " " << columns;
        EXPECT_TRUE(is_right(matmul(transpose(a), b, {.first = true}))) << depth << " " << columns;
        EXPECT_TRUE(is_right(matmul(a, transpose(b), {.second = true}))) << depth << " " << columns;
        EXPECT_TRUE(is_right(matmul(transpose(a), transpose(b), {.first = true, .second = true})))
            << depth << " " << columns;
      }
    }
  }
}

TEST(matmul, of_turned_factors_is_that_of_their_transposes) {
  Random random(2);
  for (const std::int64_t size : {3, 30}) {
    const Tensor a = normal({size, 4}, 0, 1, random);
    const Tensor b = normal({4, size + 2}, 0, 1, random);
    const Tensor plain = matmul(a, b);
    const auto close = [&](const Tensor& other) { return agreement(other, plain, 1e-14).agrees; };
    EXPECT_TRUE(close(matmul(transpose(a), b, {.first = true})));
    EXPECT_TRUE(close(matmul(a, transpose(b), {.second = true})));
    EXPECT_TRUE(close(matmul(transpose(a), transpose(b), {.first = true, .second = true})));
  }
}

TEST(matmul, of_batches_is_a_product_for_each_place) {
  Random random(3);
  const Tensor a = normal({2, 3, 4, 5}, 0, 1, random);
  const Tensor b = normal({3, 5, 2}, 0, 1, random);
  const Tensor all = matmul(a, b);
  ASSERT_EQ(all.shape(), (Shape{2, 3, 4, 2}));
  for (std::int64_t i = 0; i < 2; ++i) {
    for (std::int64_t j = 0; j < 3; ++j) {
      const auto matrix = [](const Tensor& x, int axis, std::int64_t at) {
        return slice(x, axis, {.from = at, .end = at + 1});
      };
      const Tensor left = reshape(matrix(matrix(a, 0, i), 1, j), {4, 5});
      const Tensor right = reshape(matrix(b, 0, j), {5, 2});
      const Tensor here = reshape(matrix(matrix(all, 0, i), 1, j), {4, 2});
      EXPECT_TRUE(agreement(here, by_definition(left, right), 1e-14).agrees);
    }
  }
}

TEST(matmul, of_a_sparse_matrix_looks_at_what_is_kept_alone) {
  Random random(4);
  const std::vector<MatrixEntry> entries = {
      {0, 2, 1.5}, {2, 0, -1}, {2, 3, 0.5}, {0, 2, 1}, {1, 1, 2}};
  const Tensor A = sparse_matrix({3, 4}, entries);
  Tensor whole = zeros({3, 4});
  for (const MatrixEntry& entry : entries)
    whole.set({entry.row, entry.column}, whole.at({entry.row, entry.column}) + entry.number);
  for (const std::int64_t width : {1, 2, 3, 7, 8, 16, 17, 40}) {
    const Tensor x = normal({4, width}, 0, 1, random);
    EXPECT_TRUE(agreement(matmul(A, x), matmul(whole, x), 1e-15).agrees) << width;
    Worksheet sheet;
    const Line y = matmul(sheet.given("A", A), sheet.weight("w", x));
    const Tensor seed = normal({3, width}, 0, 1, random);
    EXPECT_TRUE(
        agreement(reverse_sweep(y, seed)["w"], matmul(whole, seed, {.first = true}), 1e-15).agrees)
        << width;
    EXPECT_THAT(explain(y, {2, 0}).text(),
                ::testing::StartsWith("#3[2,0] = A[2,0]·w[0,0] + A[2,3]·w[3,0]\n"));
  }
  EXPECT_THROW(static_cast<void>(matmul(A, zeros({3, 6}))), ShapeError);
}

TEST(matmul, with_every_node_its_own_keeps_what_is_kept) {
  const Tensor A = sparse_matrix({2, 3}, {{0, 2, 1.5}, {1, 0, -1.0}});
  const Tensor own = sparse_matrix({3, 3}, {{0, 0, 2.0}, {1, 1}, {2, 2}});
  const Tensor product = matmul(A, own);
  EXPECT_TRUE(product.is_sparse());
  EXPECT_EQ(product, sparse_matrix({2, 3}, {{0, 2, 1.5}, {1, 0, -2.0}}));
  const Tensor turned = matmul(A, sparse_matrix({2, 2}, {{0, 0}, {1, 1, 3.0}}), {.first = true});
  EXPECT_EQ(turned, sparse_matrix({3, 2}, {{2, 0, 1.5}, {0, 1, -3.0}}));
}

}  // namespace
}  // namespace lattice
