#include "text/arithmetic.hpp"

#include <gtest/gtest.h>

#include <string>
#include <utility>
#include <vector>

namespace lattice {
namespace {

TEST(arithmetic, reads_numbers_and_how_they_are_worked) {
  const std::vector<std::pair<std::string, double>> readings = {{"0.25", 0.25},
                                                                {"0,25", 0.25},
                                                                {"−0.5", -0.5},
                                                                {"-.5", -0.5},
                                                                {"(0.3 − 1)/4", -0.175},
                                                                {"2·3 + 4×5", 26.0},
                                                                {"2*3^2", 18.0},
                                                                {"-2^2", -4.0},
                                                                {"2^-1", 0.5},
                                                                {"1/2/2", 0.25},
                                                                {"1 − 2 − 3", -4.0},
                                                                {"1e-3 + 1E2", 100.001},
                                                                {"--3", 3.0},
                                                                {"+3", 3.0},
                                                                {"((1))", 1.0},
                                                                {" 3\t", 3.0},
                                                                {"2^3^2", 512.0},
                                                                {"4.", 4.0},
                                                                {"1\u00a0000", 1000.0}};
  for (const auto& [text, number] : readings) {
    const std::optional<double> read = parse_arithmetic(text);
    ASSERT_TRUE(read.has_value()) << text;
    EXPECT_DOUBLE_EQ(*read, number) << text;
  }
}

TEST(arithmetic, reads_nothing_from_other_texts) {
  for (const std::string& text :
       {std::string(), std::string("."), std::string("abc"), std::string("1 +"), std::string("(1"),
        std::string("1)"), std::string("1/0"), std::string("nan"), std::string("inf"),
        std::string("0x10"), std::string("1e999"), std::string("2 3 x"), std::string("1..2"),
        std::string("$(id)"), std::string("\0", 1), std::string(2000, '1'), std::string(900, '('),
        std::string(900, '-') + "1"}) {
    EXPECT_FALSE(parse_arithmetic(text).has_value()) << text;
  }
}

}  // namespace
}  // namespace lattice
