#include "lattice/show/terminal.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

namespace lattice {
namespace {

using ::testing::AllOf;
using ::testing::HasSubstr;

TEST(tensor_table, labels_its_axes) {
  const Tensor t = tensor({{1.5, -2}, {3, 4}}).with({Role::example, Role::feature});
  EXPECT_EQ(show_tensor(t, {}, {.features = {"minutes", "peak"}}),
            "┌───────────┬───────────────────┐\n"
            "│ feature   │ 0 minutes  1 peak │\n"
            "├───────────┼───────────────────┤\n"
            "│ example 0 │       1.5      −2 │\n"
            "│ example 1 │         3       4 │\n"
            "└───────────┴───────────────────┘\n");
}

TEST(tensor_table, lays_a_single_column_on_its_side) {
  EXPECT_EQ(show_tensor(tensor({{1}, {2}, {3}}).with({Role::example, Role::unit}), {}),
            "┌─────────┬─────────┐\n"
            "│ example │ 0  1  2 │\n"
            "├─────────┼─────────┤\n"
            "│ unit 0  │ 1  2  3 │\n"
            "└─────────┴─────────┘\n");
}

TEST(tensor_table, shows_one_number_and_more_than_two_axes) {
  EXPECT_EQ(show_tensor(tensor(-3), {}), "−3\n");
  EXPECT_THAT(show_tensor(tensor({{{1, 2}}, {{3, 4}}}), {}),
              AllOf(HasSubstr("│ [0,0,·] │ 1  2 │\n"), HasSubstr("│ [1,0,·] │ 3  4 │\n")));
}

TEST(tensor_table, leaves_out_what_does_not_fit_and_says_so) {
  const std::string wide = show_tensor(evenly_spaced(1, 64, 64).reshaped({1, 64}), {});
  EXPECT_THAT(wide, HasSubstr("…  63"));
  EXPECT_THAT(wide, HasSubstr("of 64 columns shown)"));
  const std::string tall =
      show_tensor(evenly_spaced(1, 128, 128).reshaped({64, 2}), {.most_rows = 5});
  EXPECT_THAT(tall, HasSubstr("(4 of 64 numbers shown)"));
  EXPECT_THAT(tall, HasSubstr("63 │ 127  128 │"));
}

TEST(tensor_table, colours_numbers_by_sign_only_when_asked) {
  const Tensor t = tensor({1, -1, 0});
  EXPECT_EQ(show_tensor(t, {}).find('\x1b'), std::string::npos);
  const std::string coloured = show_tensor(t, {.colour = true});
  EXPECT_THAT(coloured, HasSubstr("\x1b[38;5;30m"
                                  "1\x1b[0m"));
  EXPECT_THAT(coloured, HasSubstr("\x1b[38;5;133m"
                                  "−1\x1b[0m"));
}

TEST(check_table, has_a_row_for_each_weight_and_a_verdict) {
  GradientCheck check;
  check.weights.push_back({.name = "W",
                           .shape = {3, 2},
                           .checked = 6,
                           .worst = {2, 1},
                           .engine = 0.5,
                           .difference = 0.25,
                           .error = 0.5,
                           .agrees = false});
  const std::string text = show_check(check, {});
  EXPECT_THAT(text, HasSubstr("6 of 6  W[2,1]"));
  EXPECT_THAT(text, HasSubstr("0.5           0.25    0.5  differs"));
  EXPECT_THAT(text, HasSubstr("Some gradients do not agree"));
  check.weights[0].agrees = true;
  EXPECT_THAT(show_check(check, {}), HasSubstr("All gradients agree"));
}

}  // namespace
}  // namespace lattice
