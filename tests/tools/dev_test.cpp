#include <gmock/gmock.h>
#include <gtest/gtest.h>

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

TEST(documents, link_to_files_that_are_there) {
  for (const char* name : {"README.md", "CONTRIBUTING.md"}) {
    const std::string text = content_of(std::string(LATTICE_SOURCE "/") + name);
    ASSERT_FALSE(text.empty());
    const std::regex link(R"(\[[^\]\n]+\]\(([^)\n]+)\))");
    for (std::sregex_iterator next(text.begin(), text.end(), link), end; next != end; ++next) {
      const std::string target = (*next)[1];
      EXPECT_TRUE(std::filesystem::exists(LATTICE_SOURCE "/" + target)) << target;
    }
  }
}

}  // namespace
}  // namespace lattice::testing
