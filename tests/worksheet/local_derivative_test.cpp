#include "lattice/worksheet/local_derivative.hpp"

#include <gtest/gtest.h>

#include "lattice/core.hpp"

namespace lattice {
namespace {

using Kind = LocalDerivative::Kind;

TEST(local_derivative, is_a_number_for_each_number_of_an_activation) {
  Worksheet sheet;
  const Line x = sheet.weight("x", {1, 2, -3});
  EXPECT_EQ(local_derivative(square(x), 0)->numbers, tensor({2, 4, -6}));
  EXPECT_EQ(local_derivative(relu(x), 0)->numbers, tensor({1, 1, 0}));
  EXPECT_FALSE(local_derivative(relu(x), 0)->everywhere.has_value());
}

TEST(local_derivative, is_one_number_where_all_are_the_same) {
  Worksheet sheet;
  const Line x = sheet.weight("x", {1, 2, 4});
  EXPECT_EQ(local_derivative(x + 3, 0)->everywhere, 1.0);
  EXPECT_EQ(local_derivative(0.5 * x, 0)->everywhere, 0.5);
  EXPECT_EQ(local_derivative(mean(x), 0)->everywhere, 1.0 / 3.0);
  EXPECT_EQ(local_derivative(mean(x), 0)->numbers.shape(), x.shape());
}

TEST(local_derivative, of_what_was_stretched_has_the_shape_of_the_result) {
  Worksheet sheet;
  const Line x = sheet.weight("x", {{1, 2}, {3, 4}});
  const Line scale = sheet.weight("scale", {10, 20});
  const Line product = x * scale;
  EXPECT_EQ(local_derivative(product, 0)->numbers, tensor({{10, 20}, {10, 20}}));
  EXPECT_EQ(local_derivative(product, 1)->numbers, tensor({{1, 2}, {3, 4}}));
}

TEST(local_derivative, of_a_product_is_the_other_matrix) {
  Worksheet sheet;
  const Line x = sheet.weight("x", {{1, 2}, {3, 4}, {5, 6}});
  const Line W = sheet.weight("W", {{7}, {8}});
  const Line b = sheet.weight("b", {9});
  const Line z = dense(x, W, b);
  const LocalDerivative by_x = local_derivative(z, 0).value();
  EXPECT_EQ(by_x.kind, Kind::matrix);
  EXPECT_EQ(by_x.numbers, tensor({{7, 8}}));
  EXPECT_EQ(by_x.factor_in_symbols(), "Wᵀ");
  const LocalDerivative by_weight = local_derivative(z, 1).value();
  EXPECT_EQ(by_weight.numbers, tensor({{1, 3, 5}, {2, 4, 6}}));
  EXPECT_EQ(by_weight.factor_in_symbols(), "xᵀ");
  EXPECT_EQ(local_derivative(z, 2)->everywhere, 1.0);

  const Line turned = matmul(W, x, {.first = true, .second = true});
  EXPECT_EQ(local_derivative(turned, 0)->factor_in_symbols(), "xᵀ");
  EXPECT_EQ(local_derivative(turned, 1)->factor_in_symbols(), "Wᵀ");
  const Line plain = matmul(x, W, {});
  EXPECT_EQ(local_derivative(plain, 0)->factor_in_symbols(), "Wᵀ");
}

TEST(local_derivative, of_a_loss_is_what_one_that_arrives_passes_on) {
  Worksheet sheet;
  const Line z = sheet.weight("z", {{1}, {4}});
  const Line loss = half_mean_squared(z, tensor({{3}, {2}}));
  EXPECT_EQ(local_derivative(loss, 0)->numbers, tensor({{-1}, {1}}));
}

TEST(local_derivative, of_a_softmax_is_a_matrix_for_each_row) {
  Worksheet sheet;
  const Line z = sheet.weight("z", tensor({{1, 2}, {3, 5}}).with({Role::example, Role::class_}));
  const Line y = softmax(z);
  const LocalDerivative local = local_derivative(y, 0).value();
  EXPECT_EQ(local.kind, Kind::across);
  EXPECT_EQ(local.each, "example");
  const double p = y.value()(0, 0);
  const double q = y.value()(0, 1);
  const Tensor by_hand = tensor({{p * (1 - p), -p * q}, {-q * p, q * (1 - q)}});
  EXPECT_LE(distance(local.numbers, by_hand).largest, 1e-15);
  // Of columns the matrix is for each of these; of a list there is one.
  EXPECT_EQ(local_derivative(softmax(z, 0), 0)->each, "class");
  const Line list = sheet.weight("list", {1, 2, 3});
  EXPECT_EQ(local_derivative(log_softmax(list, 0), 0)->each, "");
  EXPECT_EQ(local_derivative(softmax(sheet.weight("m", {{1, 2}, {1, 2}}), 1), 0)->each, "row");
  EXPECT_FALSE(local_derivative(softmax(sheet.weight("long", zeros({65})), 0), 0).has_value());
}

TEST(local_derivative, is_left_out_where_it_is_neither) {
  Worksheet sheet;
  const Line z = sheet.weight("z", {{1, 2}, {3, 4}});
  const Line y = sheet.given("y", {0, 1});
  EXPECT_FALSE(local_derivative(at_class(z, y), 1).has_value());
  EXPECT_EQ(local_derivative(at_class(z, y), 0)->numbers, tensor({{1, 0}, {0, 1}}));
  EXPECT_THROW(static_cast<void>(local_derivative(z, 0)), IndexError);
  EXPECT_THROW(static_cast<void>(local_derivative(softmax(z), 1)), IndexError);
  const Line scale = sheet.weight("scale", {1, 1});
  const Line shift = sheet.weight("shift", {0, 0});
  const auto by = normalised_along(z, scale, shift, {.axes = {0}}, {});
  EXPECT_FALSE(local_derivative(by.result, 0).has_value());
}

TEST(local_derivative, of_a_matrix_that_stores_little_is_not_written_out) {
  Worksheet sheet;
  const Line A = sheet.given("A", sparse_matrix({3, 3}, std::vector<MatrixEntry>{{0, 1, 2.0}}));
  const Line h = sheet.weight("h", {{1}, {2}, {3}});
  EXPECT_FALSE(local_derivative(matmul(A, h), 1).has_value());
}

}  // namespace
}  // namespace lattice
