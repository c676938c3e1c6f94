#include "lattice/text/numbers.hpp"

#include <gtest/gtest.h>

#include <cmath>
#include <limits>

namespace lattice {
namespace {

TEST(numbers, are_written_for_reading) {
  EXPECT_EQ(format_number(0.31), "0.31");
  EXPECT_EQ(format_number(-2.5), "−2.5");
  EXPECT_EQ(format_number(1.0 / 3.0), "0.33333");
  EXPECT_EQ(format_number(1.2e-7), "1.2e−7");
  EXPECT_EQ(format_number(-3e20), "−3e20");
  EXPECT_EQ(format_number(182412.6), "182413");
  EXPECT_EQ(format_number(-0.0), "0");
  EXPECT_EQ(format_number(std::numeric_limits<double>::infinity()), "∞");
  EXPECT_EQ(format_number(-std::numeric_limits<double>::infinity()), "−∞");
  EXPECT_EQ(format_number(std::nan("")), "NaN");
  EXPECT_EQ(format_number(0.1, all_digits), "0.1");
  EXPECT_EQ(format_number(1.0 / 3.0, all_digits), "0.3333333333333333");
}

TEST(numbers, are_read_back_as_they_are_written) {
  for (const double number : {0.0, 1.5, -2.25e-9, 1e300, -1.0 / 3.0, 123456789.123}) {
    EXPECT_EQ(parse_number(format_number(number, all_digits)), number);
  }
  EXPECT_EQ(parse_number(" +4.5 "), 4.5);
  EXPECT_EQ(parse_number("-.5"), -0.5);
  EXPECT_EQ(parse_number("1e400"), std::numeric_limits<double>::infinity());
  EXPECT_TRUE(std::isnan(*parse_number("nan")));
  for (const char* text : {"", " ", "four", "1,5", "1.5x", "+-1", "0x10", "--1", "+"}) {
    EXPECT_FALSE(parse_number(text)) << text;
  }
  EXPECT_EQ(parse_whole_number(" -12 "), -12);
  for (const char* text : {"", "1.0", "1e3", "+1", "12x", "9223372036854775808"}) {
    EXPECT_FALSE(parse_whole_number(text)) << text;
  }
}

}  // namespace
}  // namespace lattice
