#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <cctype>
#include <regex>

#include "support/process.hpp"

namespace lattice::testing {
namespace {

TEST(dev, lists_its_tasks_when_it_is_given_none_or_an_unknown_one) {
  const std::string dev = LATTICE_SOURCE "/dev";
  for (const std::vector<std::string>& words :
       {std::vector<std::string>{}, {"dance"}, {"test", "--fast"}}) {
    const Answer answer = run_program(dev, words);
    EXPECT_EQ(answer.status, 2);
    for (const char* task : {"demo", "test", "build", "bench", "lint", "screenshots"}) {
      EXPECT_THAT(answer.err, ::testing::HasSubstr(std::string("./dev ") + task));
    }
  }
}

/// What links to headings call them: in small letters, with `-` between words.
std::vector<std::string> headings_of(const std::string& text) {
  const std::regex heading(R"((?:^|\n)#+ ([^\n]+))");
  std::vector<std::string> names;
  for (std::sregex_iterator next(text.begin(), text.end(), heading), end; next != end; ++next) {
    std::string name;
    for (const char letter : (*next)[1].str())
      name +=
          letter == ' ' ? '-' : static_cast<char>(std::tolower(static_cast<unsigned char>(letter)));
    names.push_back(name);
  }
  return names;
}

TEST(documents, link_to_files_and_headings_that_are_there) {
  for (const char* name : {"README.md", "CONTRIBUTING.md"}) {
    const std::string text = content_of(std::string(LATTICE_SOURCE "/") + name);
    ASSERT_FALSE(text.empty());
    const std::regex link(R"(\[[^\]\n]+\]\(([^)\n]+)\))");
    for (std::sregex_iterator next(text.begin(), text.end(), link), end; next != end; ++next) {
      const std::string target = (*next)[1];
      if (target.starts_with('#')) {
        EXPECT_THAT(headings_of(text), ::testing::Contains(target.substr(1)));
      } else {
        EXPECT_TRUE(std::filesystem::exists(LATTICE_SOURCE "/" + target)) << target;
      }
    }
  }
}

}  // namespace
}  // namespace lattice::testing
