#include <gtest/gtest.h>

#include <Eigen/Core>

#include "lattice/core.hpp"

// A program that uses both, and says so once.
namespace of_a_student {
namespace {

TEST(beside_eigen, functions_of_arrays_are_those_of_eigen) {
  using namespace lattice;
  const Eigen::ArrayXd numbers = Eigen::ArrayXd::LinSpaced(5, 0.5, 2.5);
  const Eigen::ArrayXd found = exp(numbers) + log(numbers) + tanh(numbers) + log1p(numbers) +
                               expm1(numbers) + sqrt(numbers) + abs(numbers) + square(numbers);
  const double at = numbers[2];
  EXPECT_NEAR(
      found[2],
      exp(at) + log(at) + tanh(at) + log1p(at) + expm1(at) + sqrt(at) + abs(at) + square(at),
      1e-12);
  const Tensor same = exp(tensor({at}));
  EXPECT_NEAR(same.at({0}), exp(at), 1e-12);
}

}  // namespace
}  // namespace of_a_student
