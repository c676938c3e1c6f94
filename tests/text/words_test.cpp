#include "lattice/text/words.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include "lattice/core.hpp"

namespace lattice {
namespace {

using ::testing::ElementsAre;
using ::testing::HasSubstr;

constexpr Words<char> signs = {{',', "comma"}, {';', "semicolon"}, {',', ","}};

TEST(words, are_written_by_the_first_and_read_by_each) {
  static_assert(signs.of(',') == "comma");
  static_assert(signs.find(",") == ',');
  EXPECT_EQ(signs.of('|'), "");
  EXPECT_EQ(signs.find("bar"), std::nullopt);
  EXPECT_EQ(signs.find(""), std::nullopt);
  EXPECT_THAT(signs.all(), ElementsAre("comma", "semicolon", ","));
}

TEST(words, tell_what_there_is_and_what_is_near_when_a_text_is_none_of_them) {
  EXPECT_EQ(signs.parse("no such sign", "semicolon"), ';');
  try {
    static_cast<void>(signs.parse("no such sign", "semicolan"));
    FAIL();
  } catch (const SettingError& error) {
    EXPECT_EQ(error.trouble().what, "no such sign");
    EXPECT_THAT(error.what(), HasSubstr("semicolon"));
    EXPECT_THAT(error.what(), HasSubstr("semicolan"));
  }
}

/// Each word stands for the value that is written by it.
template <class Value>
void expect_there_and_back(const Words<Value>& words) {
  for (const auto& [value, word] : words)
    EXPECT_EQ(words.find(word), value) << word;
}

TEST(words, of_everything_that_is_written_are_read_again) {
  expect_there_and_back(precision_words);
  expect_there_and_back(role_words);
  expect_there_and_back(data_part_words);
  expect_there_and_back(ending_words);
  expect_there_and_back(form_words);
  expect_there_and_back(target_kind_words);
  expect_there_and_back(missing_words);
}

}  // namespace
}  // namespace lattice
