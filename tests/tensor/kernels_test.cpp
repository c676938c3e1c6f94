#include "tensor/kernels.hpp"

#include <gtest/gtest.h>

#include <cmath>

#include "lattice/core.hpp"

namespace lattice {
namespace {

TEST(operations, work_large_products_like_small_ones) {
  Random random(2);
  const Tensor a = normal({40, 30}, 0.0, 1.0, random);
  const Tensor b = normal({30, 20}, 0.0, 1.0, random);
  const Tensor product = matmul(a, b);
  for (std::int64_t i = 0; i < 40; ++i) {
    for (std::int64_t j = 0; j < 20; ++j) {
      double total = 0.0;
      for (std::int64_t k = 0; k < 30; ++k)
        total += a.at({i, k}) * b.at({k, j});
      EXPECT_NEAR(product.at({i, j}), total, 1e-13);
    }
  }
}

TEST(operations, work_exp_log_and_tanh_like_a_plain_loop_to_a_few_units_of_the_last_digit) {
  Random random(9);
  const Tensor x = join({normal({20'000}, 0.0, 3.0, random), normal({20'000}, 0.0, 200.0, random),
                         tensor({0.0, -0.0, 0.625, -0.625, 1e-300, 709.78, -745.0, -708.4})},
                        0);
  const Tensor powers = exp(x);
  const Tensor bent = tanh(x);
  const Tensor logs = log(abs(x) + 1e-310);
  for (std::int64_t i = 0; i < x.count(); ++i) {
    const double number = x.at({i});
    const double power = std::exp(number);
    if (std::isinf(power)) {
      ASSERT_EQ(powers.at({i}), power);
    } else {
      ASSERT_NEAR(powers.at({i}), power, 1e-15 * power + 1e-323) << number;
    }
    ASSERT_NEAR(bent.at({i}), std::tanh(number), 5e-16 * std::abs(std::tanh(number))) << number;
    const double log_here = std::log(std::abs(number) + 1e-310);
    ASSERT_NEAR(logs.at({i}), log_here, 1e-15 * std::abs(log_here) + 1e-16) << number;
  }
}

TEST(operations, find_the_first_largest_of_rows_of_any_length) {
  Random random(5);
  for (const Precision precision : {Precision::double_, Precision::single}) {
    for (std::int64_t width = 1; width <= 20; ++width) {
      Tensor x = normal({6, width}, 0, 1, random, precision);
      for (std::int64_t at = 0; at < width; ++at) {
        x.set({1, at}, 7.0);
        x.set({2, at}, at == width / 2 ? 3.0 : -INFINITY);
        x.set({3, at}, NAN);
      }
      if (width > 2) x.set({4, width - 1}, NAN);
      const Tensor places = argmax(x, 1);
      EXPECT_EQ(places, argmax(permute(x, {1, 0}), 0)) << width;
      EXPECT_EQ(places.at({1}), 0.0);
      EXPECT_EQ(places.at({2}), static_cast<double>(width / 2));
      EXPECT_EQ(places.at({3}), 0.0);
    }
  }
}

TEST(operations, overflow_and_vanish_as_arithmetic_does) {
  for (const Precision precision : {Precision::double_, Precision::single}) {
    const Tensor x = tensor({1000, -1000, NAN, INFINITY, -INFINITY}, precision);
    const std::vector<double> powers = exp(x).numbers();
    EXPECT_TRUE(std::isinf(powers[0]) && std::isinf(powers[3]) && std::isnan(powers[2]));
    EXPECT_EQ(powers[1], 0.0);
    EXPECT_EQ(powers[4], 0.0);
    const std::vector<double> logs = log(tensor({0, -1, INFINITY}, precision)).numbers();
    EXPECT_EQ(logs[0], -INFINITY);
    EXPECT_TRUE(std::isnan(logs[1]) && std::isinf(logs[2]));
    for (const Tensor& y : {tanh(x), relu(x), sigmoid(x), softplus(x), elu(x), abs(x)})
      EXPECT_TRUE(std::isnan(y.at({2})));
    EXPECT_EQ(tanh(x).at({0}), 1.0);
    EXPECT_EQ(softplus(x).at({0}), 1000.0);
  }
}

/// How far a number is off, in units of its last digit.
double units_off(double found, double expected, Precision precision) {
  int exponent = 0;
  std::frexp(expected, &exponent);
  return std::abs(found - expected) /
         std::ldexp(1.0, exponent - (precision == Precision::double_ ? 53 : 24));
}

// Several numbers are worked at a time, and each is right to a few units of its last digit.
TEST(operations, of_whole_tensors_are_right_to_the_last_digits_over_the_whole_range) {
  for (const Precision precision : {Precision::double_, Precision::single}) {
    std::vector<double> many;
    for (double size = 1e-6; size < 80.0; size *= 1.03) {
      for (const double number : {size, -size})
        many.push_back(precision == Precision::double_ ? number : static_cast<float>(number));
    }
    const Shape shape{std::ssize(many)};
    const Tensor x = tensor(shape, many, precision);
    const auto worst = [&](const Tensor& found, const auto& expected) {
      double off = 0.0;
      for (std::size_t at = 0; at < many.size(); ++at)
        off = std::max(off,
                       units_off(found.at_offset(static_cast<std::int64_t>(at)),
                                 static_cast<double>(expected(static_cast<long double>(many[at]))),
                                 precision));
      return off;
    };
    EXPECT_LE(worst(tanh(x), [](long double n) { return std::tanh(n); }), 5.0);
    EXPECT_LE(worst(exp(x), [](long double n) { return std::exp(n); }), 4.0);
    EXPECT_LE(worst(sigmoid(x), [](long double n) { return 1 / (1 + std::exp(-n)); }), 4.0);
    EXPECT_LE(worst(softplus(x), [](long double n) { return std::log1p(std::exp(n)); }), 4.0);
    EXPECT_LE(worst(elu(x), [](long double n) { return n > 0 ? n : std::expm1(n); }), 4.0);
  }
}

}  // namespace
}  // namespace lattice
