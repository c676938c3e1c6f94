#include "text/typed.hpp"

#include <gtest/gtest.h>

#include "support/process.hpp"

namespace lattice {
namespace {

/// What a shell takes a word for.
std::string read_by(const std::string& shell, const std::string& typed) {
  return testing::run_program(shell, {"-c", "printf %s " + typed}).out;
}

TEST(typed, words_are_read_by_a_shell_as_they_were_meant) {
  for (const std::string word :
       {"plain", "a b", "it's", "",   "$(touch pwned)", "`touch pwned`", "\"", "\\", "a;b",   "a&b",
        "*",     "~",   "#x",   "!",  "{a,b}",          "a\\'b",         "(",  "<x", "größe", "-x",
        "a=b",   "%41", "?",    "[a]"}) {
    for (const char* const shell : {"/bin/sh", "/bin/bash"})
      EXPECT_EQ(read_by(shell, typed(word)), word) << shell << ": " << typed(word);
  }
}

TEST(typed, words_with_control_characters_stand_in_one_line_and_run_nothing) {
  const std::string word = "a\n$(touch pwned)\t'\\\x1B[31m";
  EXPECT_EQ(typed(word).find('\n'), std::string::npos);
  EXPECT_EQ(typed(word).find('\x1B'), std::string::npos);
  EXPECT_EQ(read_by("/bin/bash", typed(word)), word);
}

TEST(typed, plain_words_have_no_quotes_and_values_are_no_flags) {
  EXPECT_EQ(typed("demo/lessons/glazes.toml"), "demo/lessons/glazes.toml");
  EXPECT_EQ(typed_flag("--node", "Ada"), "--node Ada");
  EXPECT_EQ(typed_flag("--node", "--help"), "--node=--help");
  EXPECT_EQ(typed_flag("--node", "-1 $x"), "--node='-1 $x'");
}

}  // namespace
}  // namespace lattice
