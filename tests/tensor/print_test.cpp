#include "lattice/tensor/print.hpp"

#include <fmt/format.h>
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <cmath>
#include <limits>
#include <sstream>

#include "lattice/text/letters.hpp"
#include "lattice/text/wrapping.hpp"

namespace lattice {
namespace {

using ::testing::HasSubstr;

TEST(printed_tensor, is_a_ruled_box_under_its_shape) {
  EXPECT_EQ(fmt::format("{}", tensor({{1, 2}, {3, 4}})),
            "[2 × 2]\n"
            "┌───┬──────┐\n"
            "│   │ 0  1 │\n"
            "├───┼──────┤\n"
            "│ 0 │ 1  2 │\n"
            "│ 1 │ 3  4 │\n"
            "└───┴──────┘\n");
  EXPECT_EQ(to_string(tensor({1.5, -2}).with({Role::unit})),
            "[unit 2]\n"
            "┌──────┬─────────┐\n"
            "│ unit │   0   1 │\n"
            "├──────┼─────────┤\n"
            "│      │ 1.5  −2 │\n"
            "└──────┴─────────┘\n");
}

TEST(printed_tensor, says_one_number_and_nothing_plainly) {
  EXPECT_EQ(to_string(tensor(-0.25)), "[one number] −0.25\n");
  EXPECT_EQ(to_string(Tensor()), "[nothing]\n");
}

TEST(printed_tensor, says_how_much_of_a_large_one_is_shown) {
  const std::string text = to_string(evenly_spaced(0, 1, 6000).reshaped({100, 60}));
  EXPECT_THAT(text, HasSubstr("[100 × 60]"));
  EXPECT_THAT(text, HasSubstr("9 of 100 numbers shown"));
  EXPECT_THAT(text, HasSubstr("of 60 columns shown)"));
  std::istringstream lines(text);
  for (std::string line; std::getline(lines, line);)
    EXPECT_LE(columns(line), page_width) << line;
}

TEST(printed_tensor, has_as_many_digits_and_rows_as_asked_for) {
  const Tensor third = tensor({{1.0 / 3.0}, {2.0 / 3.0}, {1}}).with({Role::none, Role::none});
  EXPECT_THAT(to_string(third, {.digits = 3}), HasSubstr("0.333"));
  EXPECT_EQ(to_string(third, {.digits = 3}).find("0.3333"), std::string::npos);
  EXPECT_THAT(to_string(zeros({30, 2}), {.most_rows = 30}), HasSubstr("│ 29 │ 0  0 │"));
}

TEST(printed_tensor, shows_what_is_no_number_as_it_is) {
  const std::string text =
      to_string(tensor({std::nan(""), std::numeric_limits<double>::infinity(), -1.0 / 0.0}));
  EXPECT_THAT(text, HasSubstr("NaN  ∞  −∞"));
}

}  // namespace
}  // namespace lattice
