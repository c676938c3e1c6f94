#include "lattice/text/wrapping.hpp"

#include <gtest/gtest.h>

#include <algorithm>
#include <string>

#include "lattice/tensor/random.hpp"

namespace lattice {
namespace {

TEST(text, breaks_formulas_in_front_of_the_outermost_signs) {
  EXPECT_EQ(wrap_formula("a + b", 4, 80), "a + b");
  EXPECT_EQ(wrap_formula("aaaa + (b + c) − dddd", 2, 14), "aaaa\n  + (b + c)\n  − dddd");
  EXPECT_EQ(wrap_formula("toolongforthis", 2, 5), "toolongforthis");
}

TEST(paragraph, breaks_between_words_and_keeps_them_all) {
  EXPECT_EQ(paragraph("one two three", 7), "one two\nthree\n");
  EXPECT_EQ(paragraph("  spaces   and\nlines ", 80), "spaces and lines\n");
  EXPECT_EQ(paragraph("überlang", 3), "überlang\n");
  Random random(3);
  for (int trial = 0; trial < 50; ++trial) {
    std::string text;
    for (std::int64_t word = random.below(40); word >= 0; --word)
      text += std::string(static_cast<std::size_t>(1 + random.below(9)), 'x') + " ";
    const std::string lines = paragraph(text, 20);
    std::string joined = lines;
    std::ranges::replace(joined, '\n', ' ');
    EXPECT_EQ(joined, text);
    for (std::size_t from = 0; from < lines.size(); from = lines.find('\n', from) + 1)
      EXPECT_LE(lines.find('\n', from) - from, 20U);
  }
}

}  // namespace
}  // namespace lattice
