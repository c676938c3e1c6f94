#include "lattice/worksheet/operations/along_axes.hpp"

#include <gtest/gtest.h>

#include <cmath>
#include <map>

#include "lattice/core.hpp"

namespace lattice {
namespace {

TEST(along_axes, take_away_the_role_of_an_axis_that_is_kept_with_one_place) {
  const Tensor x = ones({2, 3}).with({Role::example, Role::class_});
  EXPECT_EQ(to_string(sum(x, {.axes = {1}, .keep = true}).shape()), "[example 2 × 1]");
  EXPECT_EQ(to_string(sum(x, {.axes = {0}, .keep = true}).shape()), "[1 × class 3]");
  EXPECT_EQ(to_string(Tensor(x / sum(x, {.axes = {1}, .keep = true})).shape()),
            "[example 2 × class 3]");
}

/// The numbers of a tensor in groups: those that are brought together along some axes.
std::vector<std::vector<double>> groups(const Tensor& x, const std::vector<int>& axes) {
  std::map<std::vector<std::int64_t>, std::vector<double>> by_place;
  for (std::int64_t offset = 0; offset < x.count(); ++offset) {
    const Index at = x.shape().index(offset);
    std::vector<std::int64_t> place;
    for (int axis = 0; axis < x.shape().rank(); ++axis) {
      if (std::ranges::find(axes, axis) == axes.end()) place.push_back(at[axis]);
    }
    by_place[place].push_back(x.at_offset(offset));
  }
  std::vector<std::vector<double>> all;
  for (const auto& [place, numbers] : by_place)
    all.push_back(numbers);
  return all;
}

TEST(along_axes, means_what_a_plain_loop_means_for_every_set_of_axes) {
  Random random(1);
  const Tensor x = normal({2, 3, 4, 2}, 0, 2, random);
  for (unsigned set = 1; set < 16; ++set) {
    std::vector<int> axes;
    for (int axis = 0; axis < 4; ++axis) {
      if ((set >> static_cast<unsigned>(axis) & 1U) != 0) axes.push_back(axis);
    }
    const std::vector<std::vector<double>> expected = groups(x, axes);
    const std::vector<double> sums = sum(x, {.axes = axes}).numbers();
    const std::vector<double> means = mean(x, {.axes = axes}).numbers();
    const std::vector<double> variances = variance(x, {.axes = axes}).numbers();
    const std::vector<double> largest = max(x, {.axes = axes}).numbers();
    const std::vector<double> logs = log_sum_exp(x, {.axes = axes, .keep = true}).numbers();
    ASSERT_EQ(sums.size(), expected.size());
    for (std::size_t group = 0; group < expected.size(); ++group) {
      const auto count = static_cast<double>(expected[group].size());
      double total = 0.0;
      double powers = 0.0;
      double most = -1e9;
      for (const double number : expected[group]) {
        total += number;
        powers += std::exp(number);
        most = std::max(most, number);
      }
      double squares = 0.0;
      for (const double number : expected[group])
        squares += (number - total / count) * (number - total / count);
      EXPECT_NEAR(sums[group], total, 1e-13);
      EXPECT_NEAR(means[group], total / count, 1e-13);
      EXPECT_NEAR(variances[group], squares / count, 1e-13);
      EXPECT_EQ(largest[group], most);
      EXPECT_NEAR(logs[group], std::log(powers), 1e-13);
    }
  }
}

TEST(softmax, adds_up_to_one_along_its_axis_and_its_log_is_log_softmax) {
  Random random(2);
  const Tensor x = normal({3, 4, 5}, 0, 3, random);
  for (int axis = 0; axis < 3; ++axis) {
    const Tensor p = softmax(x, axis);
    EXPECT_TRUE(
        agreement(sum(p, {.axes = {axis}}), ones(sum(x, {.axes = {axis}}).shape()), 1e-14).agrees);
    EXPECT_TRUE(agreement(log(p), log_softmax(x, axis), 1e-14).agrees);
    EXPECT_EQ(argmax(p, axis), argmax(x, axis));
  }
  EXPECT_EQ(softmax(x), softmax(x, 2));
}

TEST(softmax, does_not_change_when_all_scores_move_together) {
  const Tensor x = tensor({{1, 2, 3}});
  EXPECT_TRUE(agreement(softmax(x + 5000.0), softmax(x), 1e-12).agrees);
  EXPECT_TRUE(agreement(softmax(x - 5000.0), softmax(x), 1e-12).agrees);
}

}  // namespace
}  // namespace lattice
