#include "lattice/worksheet/operations/rearranging.hpp"

#include <gtest/gtest.h>

#include "lattice/core.hpp"

namespace lattice {
namespace {

TEST(operations, rearrange_without_losing_a_number) {
  const Tensor x = evenly_spaced(0, 5, 6).reshaped({2, 3});
  EXPECT_EQ(permute(x, {1, 0}), transpose(x));
  EXPECT_EQ(slice(x, 1, {.from = 0, .step = 2}).numbers(), (std::vector<double>{0, 2, 3, 5}));
  EXPECT_EQ(pad(x, 0, {.before = 1, .number = 9}).numbers(),
            (std::vector<double>{9, 9, 9, 0, 1, 2, 3, 4, 5}));
  EXPECT_EQ(repeat(tensor({1, 2}), 0, 2).numbers(), (std::vector<double>{1, 2, 1, 2}));
  EXPECT_EQ(gather_rows(x, tensor({1, 1})).numbers(), (std::vector<double>{3, 4, 5, 3, 4, 5}));
  EXPECT_EQ(one_hot(tensor({2, 0}), 3).numbers(), (std::vector<double>{0, 0, 1, 1, 0, 0}));
  EXPECT_EQ(argmax(one_hot(tensor({2, 0}), 3)).numbers(), (std::vector<double>{2, 0}));
  std::vector<Tensor> many;
  std::vector<double> expected;
  for (int i = 0; i < 30; ++i) {
    many.push_back(tensor({1.0 * i}));
    expected.push_back(i);
  }
  EXPECT_EQ(join(many, 0).numbers(), expected);
}

TEST(operations, join_more_lines_than_an_operation_takes) {
  Worksheet sheet;
  std::vector<Line> parts;
  for (int i = 0; i < 20; ++i)
    parts.push_back(sheet.weight("w" + std::to_string(i), tensor({1.0 * i})));
  const Line all = join(parts, 0);
  const Line cost = sum(square(all));
  EXPECT_EQ(all.shape(), Shape{20});
  for (int i = 0; i < 20; ++i)
    EXPECT_EQ(reverse_sweep(cost)["w" + std::to_string(i)].number(), 2.0 * i);
}

TEST(operations, refuse_what_they_cannot_rearrange) {
  const Tensor x = zeros({2, 3});
  EXPECT_THROW(static_cast<void>(reshape(x, {5})), ShapeError);
  EXPECT_THROW(static_cast<void>(flatten(tensor(1.0))), ShapeError);
  EXPECT_THROW(static_cast<void>(permute(x, {0, 0})), ShapeError);
  EXPECT_THROW(static_cast<void>(permute(x, {0})), ShapeError);
  EXPECT_THROW(static_cast<void>(slice(x, 2, {})), ShapeError);
  EXPECT_THROW(static_cast<void>(slice(x, 1, {.from = 3})), IndexError);
  EXPECT_THROW(static_cast<void>(slice(x, 1, {.end = 4})), IndexError);
  EXPECT_THROW(static_cast<void>(slice(x, 1, {.step = 0})), IndexError);
  EXPECT_THROW(static_cast<void>(join(std::vector<Tensor>{}, 0)), ShapeError);
  EXPECT_THROW(static_cast<void>(join({x, zeros({2, 2})}, 0)), ShapeError);
  EXPECT_THROW(static_cast<void>(join({x, x}, 2)), ShapeError);
  EXPECT_THROW(static_cast<void>(pad(x, 0, {.before = -1})), ShapeError);
  EXPECT_THROW(static_cast<void>(repeat(x, 0, 0)), ShapeError);
  EXPECT_THROW(static_cast<void>(repeat(x, 0, 2'000'000'000)), ShapeError);
  EXPECT_THROW(static_cast<void>(at_class(x, zeros({3}))), ShapeError);
  EXPECT_THROW(static_cast<void>(one_hot(zeros({3}), 0)), ShapeError);
  EXPECT_THROW(static_cast<void>(matmul(zeros({2, 4, 3}), zeros({3, 3, 4}))), ShapeError);
}

}  // namespace
}  // namespace lattice
