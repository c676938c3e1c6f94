#include "lattice/tensor/sparse.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <algorithm>
#include <thread>
#include <vector>

#include "lattice/core.hpp"
#include "support/said.hpp"

namespace lattice {
namespace {

using ::testing::ElementsAre;
using ::testing::HasSubstr;
using ::testing::IsEmpty;
using ::testing::SizeIs;

const std::vector<MatrixEntry> some_entries = {
    {1, 2, 0.5}, {0, 1, 2.0}, {1, 0, -1.0}, {1, 2, 0.25}};

TEST(sparse_matrix, is_a_tensor_of_which_the_rest_is_0) {
  const Tensor A = sparse_matrix({3, 4}, some_entries);
  EXPECT_TRUE(A.is_sparse());
  EXPECT_EQ(A.shape(), (Shape{3, 4}));
  EXPECT_EQ(A.count(), 12);
  EXPECT_EQ(stored_count(A), 3);
  EXPECT_EQ(A.at({1, 2}), 0.75);
  EXPECT_EQ(A.at({1, 3}), 0.0);
  EXPECT_EQ(A.at({2, 0}), 0.0);
  EXPECT_THAT(A.numbers(), ElementsAre(0, 2, 0, 0, -1, 0, 0.75, 0, 0, 0, 0, 0));
  EXPECT_THAT(entries_of(A), ElementsAre(MatrixEntry{0, 1, 2.0}, MatrixEntry{1, 0, -1.0},
                                         MatrixEntry{1, 2, 0.75}));
  EXPECT_THROW(static_cast<void>(A.at({3, 0})), IndexError);
}

TEST(sparse_matrix, says_what_is_kept_along_its_rows_and_columns) {
  const Tensor A = sparse_matrix({3, 4}, some_entries);
  EXPECT_THAT(stored_along(A, 1, 1), ElementsAre(0, 2));
  EXPECT_THAT(stored_along(A, 1, 2), IsEmpty());
  EXPECT_THAT(stored_along(A, 0, 2), ElementsAre(1));
  EXPECT_THAT(stored_along(A, 0, 3), IsEmpty());
  EXPECT_THAT(stored_along(zeros({2, 3}), 1, 0), ElementsAre(0, 1, 2));
  EXPECT_EQ(stored_count(zeros({2, 3})), 6);
  EXPECT_THAT(entries_of(tensor({{0, 2}, {3, 0}})),
              ElementsAre(MatrixEntry{0, 1, 2}, MatrixEntry{1, 0, 3}));
}

TEST(sparse_matrix, is_a_value_like_any_other_tensor) {
  const Tensor A = sparse_matrix({3, 4}, some_entries);
  Tensor changed = A;
  changed.set({2, 2}, 7.0);
  EXPECT_FALSE(changed.is_sparse());
  EXPECT_EQ(changed.at({2, 2}), 7.0);
  EXPECT_EQ(changed.at({1, 2}), 0.75);
  EXPECT_EQ(A.at({2, 2}), 0.0);
  EXPECT_EQ(A, sparse_matrix({3, 4}, entries_of(A)));
  EXPECT_NE(A, sparse_matrix({3, 4}, {{0, 1, 2.0}}));
  // A 0 that is stored is a 0 like those that are not.
  std::vector<MatrixEntry> with_zero = entries_of(A);
  with_zero.push_back({2, 3, 0.0});
  EXPECT_THAT(entries_of(sparse_matrix({3, 4}, with_zero)), SizeIs(4));
  EXPECT_EQ(A, sparse_matrix({3, 4}, with_zero));
  EXPECT_EQ(A, tensor({3, 4}, A.numbers()));
  EXPECT_EQ((A * 2.0).at({1, 2}), 1.5);
  const Tensor single = A.in(Precision::single);
  EXPECT_TRUE(single.is_sparse());
  EXPECT_EQ(single.precision(), Precision::single);
  EXPECT_EQ(single.at({1, 2}), 0.75);
  const Tensor in_a_row = A.reshaped({12});
  EXPECT_FALSE(in_a_row.is_sparse());
  EXPECT_EQ(in_a_row.at({6}), 0.75);
  EXPECT_EQ(A.with({Role::node, Role::node}).shape().role(1), Role::node);
}

TEST(sparse_matrix, may_keep_nothing_and_be_written_out_by_several_threads_at_once) {
  const Tensor none = sparse_matrix({2, 2}, std::vector<MatrixEntry>{});
  EXPECT_EQ(stored_count(none), 0);
  EXPECT_THAT(none.numbers(), ElementsAre(0, 0, 0, 0));
  EXPECT_THAT(matmul(none, ones({2, 1})).numbers(), ElementsAre(0, 0));
  const Tensor also_none = matmul(none, sparse_matrix({2, 2}, {{0, 0, 2.0}, {1, 1, 3.0}}));
  EXPECT_TRUE(also_none.is_sparse());
  EXPECT_EQ(sum_of_squares(also_none), 0.0);
  const Tensor A = sparse_matrix({300, 300}, some_entries);
  std::vector<double> seen(4);
  std::vector<std::thread> threads;
  for (double& number : seen)
    threads.emplace_back([&number, &A] { number = A.numbers()[302]; });
  for (std::thread& thread : threads)
    thread.join();
  EXPECT_THAT(seen, ElementsAre(0.75, 0.75, 0.75, 0.75));
}

TEST(sparse_matrix, is_multiplied_by_another_as_if_both_were_written_out) {
  const Tensor A = sparse_matrix({3, 3}, {{0, 1, 2.0}, {1, 0, -1.0}, {2, 2, 0.5}});
  const Tensor other_order = sparse_matrix({3, 3}, {{0, 2, 3.0}, {1, 0, 5.0}, {2, 1, 7.0}});
  const Tensor diagonal = sparse_matrix({3, 3}, {{0, 0, 3.0}, {1, 1, 5.0}, {2, 2, 7.0}});
  for (const Tensor& right : {other_order, diagonal}) {
    EXPECT_EQ(matmul(A, right).numbers(),
              matmul(tensor({3, 3}, A.numbers()), tensor({3, 3}, right.numbers())).numbers());
  }
  EXPECT_TRUE(matmul(A, diagonal).is_sparse());
}

TEST(sparse_matrix, tells_whether_it_is_the_same_both_ways) {
  EXPECT_TRUE(is_symmetric(sparse_matrix({3, 3}, {{0, 1, 2.0}, {1, 0, 2.0}, {2, 2, 1.0}})));
  EXPECT_FALSE(is_symmetric(sparse_matrix({3, 3}, {{0, 1, 2.0}, {1, 0, 3.0}})));
  EXPECT_FALSE(is_symmetric(sparse_matrix({3, 3}, {{0, 1, 2.0}})));
  EXPECT_FALSE(is_symmetric(sparse_matrix({3, 4}, {{0, 1}, {1, 0}})));
  EXPECT_TRUE(is_symmetric(tensor({{1, 2}, {2, 1}})));
  EXPECT_FALSE(is_symmetric(tensor({{1, 2}, {3, 1}})));
}

TEST(sparse_matrix, refuses_what_is_none) {
  EXPECT_THAT(testing::said<IndexError>([] {
                static_cast<void>(sparse_matrix({2, 3}, {{0, 1}, {2, 0}}));
              }),
              ::testing::AllOf(HasSubstr("entry 1"), HasSubstr("rows 0 to 1, columns 0 to 2"),
                               HasSubstr("row 2, column 0")));
  EXPECT_THROW(static_cast<void>(sparse_matrix({2, 3}, {{0, -1}})), IndexError);
  EXPECT_THROW(static_cast<void>(sparse_matrix({2}, {{0, 0}})), ShapeError);
  EXPECT_THROW(static_cast<void>(entries_of(zeros({2, 2, 2}))), ShapeError);
}

TEST(sparse_matrix, in_another_shape_has_other_places) {
  const Tensor A = sparse_matrix({3, 2}, {{0, 1, 2.0}, {2, 0, 3.0}});
  const Tensor wide = A.reshaped({2, 3});
  EXPECT_EQ(wide.numbers(), (std::vector<double>{0, 2, 0, 0, 3, 0}));
  EXPECT_EQ(matmul(wide, tensor({{1}, {10}, {100}})), tensor({{20}, {30}}));
  EXPECT_EQ(matmul(A.reshaped({2, 3}), ones({3, 1})), tensor({{2}, {3}}));
  EXPECT_EQ(sum(wide, {.axes = {0}}), tensor({0, 5, 0}));
  EXPECT_EQ(sum(wide, {.axes = {1}}), tensor({2, 3}));
  EXPECT_EQ(wide.rows(std::vector<std::int64_t>{1}), tensor({{0, 3, 0}}));
  EXPECT_EQ(wide.at({1, 1}), 3.0);
  EXPECT_EQ(entries_of(wide).size(), 2U);
  EXPECT_EQ(wide.reshaped({3, 2}), A);
  EXPECT_TRUE(wide.reshaped({3, 2}).is_sparse());
}

}  // namespace
}  // namespace lattice
