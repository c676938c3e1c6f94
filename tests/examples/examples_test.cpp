#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <regex>

#include "support/process.hpp"

namespace lattice::testing {
namespace {

const std::string examples = LATTICE_EXAMPLES "/";

/// The number at the end of the line that starts with these words.
double figure(const std::string& text, const std::string& words) {
  std::smatch match;
  if (std::regex_search(text, match, std::regex(words + " +([-+.e0-9]+)\n")))
    return std::stod(match[1]);
  ADD_FAILURE() << words << " is not in\n" << text;
  return 1.0;
}

TEST(example_01, finds_the_same_line_by_hand_and_with_a_worksheet) {
  const Answer answer = run_program(examples + "01_linear_regression_by_hand", {});
  EXPECT_EQ(answer.status, 0);
  EXPECT_LT(figure(answer.out, "largest distance between a gradient by hand and the engine's"),
            1e-10);
  EXPECT_LT(figure(answer.out, "distance between the two W at the end"), 1e-10);
  EXPECT_LT(figure(answer.out, "distance between the two b at the end"), 1e-10);
  std::smatch last;
  ASSERT_TRUE(
      std::regex_search(answer.out, last, std::regex(" 200 +([.0-9]+) +([.0-9]+) +([.0-9]+)\n")));
  EXPECT_LT(std::stod(last[1]), 100.0);
  EXPECT_NEAR(std::stod(last[2]), 85.0, 2.0);
}

TEST(readme_example, prints_what_the_readme_says) {
  const Answer answer = run_program(examples + "readme", {});
  EXPECT_EQ(answer.status, 0);
  const std::string readme = content_of(LATTICE_SOURCE "/README.md");
  std::smatch match;
  ASSERT_TRUE(
      std::regex_search(readme, match, std::regex("```cpp\n[^`]*```\n+```text\n([^`]*)```")));
  EXPECT_EQ(answer.out, match[1].str());
}

}  // namespace
}  // namespace lattice::testing
