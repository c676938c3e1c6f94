#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <regex>

#include "support/process.hpp"

namespace lattice::testing {
namespace {

using ::testing::HasSubstr;

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

TEST(example_02, walks_the_record_back_and_checks_itself) {
  const Answer answer = run_program(examples + "02_a_walk_back", {});
  EXPECT_EQ(answer.status, 0);
  EXPECT_THAT(answer.out, HasSubstr("Forward: 8 lines"));
  EXPECT_THAT(answer.out, HasSubstr("passed on to W: xᵀ·∂a"));
  EXPECT_THAT(answer.out, HasSubstr("\n6 steps\n"));
  EXPECT_THAT(answer.out, HasSubstr("Two steps forward again: we stand at h"));
  EXPECT_THAT(answer.out, HasSubstr("first try:  differ: at [0,0]"));
  EXPECT_THAT(answer.out, HasSubstr("3 times the engine's"));
  EXPECT_THAT(answer.out, HasSubstr("second try: agree"));
  EXPECT_THAT(answer.out, HasSubstr("    ∂cost/∂a[0,0] = ∂h[0,0]·(1 − h[0,0]²)"));
  EXPECT_THAT(answer.out, HasSubstr("W: 4 numbers moved"));
  EXPECT_EQ(answer.out.find("differs"), std::string::npos);
}

/// The result after the title of a comparison and the name of a form.
std::string result_of(const std::string& text, const std::string& title, const std::string& form) {
  const std::size_t from = text.find(title);
  std::smatch match;
  const std::string rest = from == std::string::npos ? "" : text.substr(from);
  if (std::regex_search(rest, match, std::regex("  " + form + " +(\\S+)  gradient")))
    return match[1];
  ADD_FAILURE() << title << ", " << form << " is not in\n" << text;
  return "";
}

TEST(example_03, breaks_the_careless_form_where_the_careful_one_holds) {
  const Answer answer = run_program(examples + "03_careless_and_careful", {});
  EXPECT_EQ(answer.status, 0);
  for (const char* size : {"1000 in double", "100 in single"}) {
    const std::string to = std::string(", scores up to ±") + size;
    EXPECT_EQ(result_of(answer.out, "Softmax, its first number" + to, "careless"), "NaN");
    EXPECT_EQ(result_of(answer.out, "Softmax, its first number" + to, "careful"), "1");
    EXPECT_EQ(result_of(answer.out, "Cross-entropy" + to, "careless"), "∞");
    EXPECT_EQ(result_of(answer.out, "Binary cross-entropy" + to, "careless"), "∞");
  }
  EXPECT_EQ(result_of(answer.out, "Cross-entropy, scores up to ±1000", "careful"), "2000");
  EXPECT_EQ(result_of(answer.out, "Cross-entropy, scores up to ±10 in", "careless"), "20");
  EXPECT_THAT(answer.out, HasSubstr("exp overflows above e^709.78 in double precision"));
  EXPECT_THAT(answer.out, HasSubstr("exp overflows above e^88.723 in single precision"));
  EXPECT_THAT(answer.out, HasSubstr("on line 6, log"));
  EXPECT_THAT(answer.out, HasSubstr("cause:    log of 0"));
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
