#include "show/page_words.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <filesystem>
#include <nlohmann/json.hpp>
#include <regex>

#include "support/process.hpp"

namespace lattice {
namespace {

/// The scripts of pages, those of subjects included, one after another.
std::string scripts() {
  std::string all;
  for (const char* folder : {"show/page", "pictures/around", "graphs/around"}) {
    const std::filesystem::path path = std::filesystem::path(LATTICE_SOURCE "/src") / folder;
    for (const auto& entry : std::filesystem::directory_iterator(path)) {
      if (entry.path().extension() == ".js") all += testing::content_of(entry.path());
    }
  }
  return all;
}

TEST(page_words, are_known_wherever_a_script_asks_for_one) {
  const std::string text = scripts();
  const Json words = page_words();
  const std::regex asked("told\\(\"(\\w+)\"");
  int count = 0;
  for (std::sregex_iterator found(text.begin(), text.end(), asked), end; found != end; ++found) {
    EXPECT_TRUE(words.contains((*found)[1].str())) << (*found)[1];
    ++count;
  }
  EXPECT_GT(count, 40);
}

TEST(page_words, are_all_asked_for) {
  const std::string text = scripts();
  const Json words = page_words();
  for (const auto& [name, sentence] : words.items())
    EXPECT_THAT(text, ::testing::HasSubstr("\"" + name + "\"")) << sentence;
}

// A gap that no script fills would stand on the page as `undefined`.
TEST(page_words, have_gaps_that_are_words) {
  const std::regex gap("\\{(\\w+)\\}");
  const Json words = page_words();
  for (const auto& [name, sentence] : words.items()) {
    const auto text = sentence.get<std::string>();
    EXPECT_EQ(std::regex_replace(text, gap, "").find_first_of("{}"), std::string::npos) << name;
  }
}

}  // namespace
}  // namespace lattice
