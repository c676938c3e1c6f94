#include "lattice/text/letters.hpp"

#include <fmt/format.h>
#include <gtest/gtest.h>

#include <string>
#include <string_view>
#include <vector>

#include "lattice/tensor/random.hpp"

namespace lattice {
namespace {

TEST(text, counts_columns_not_bytes) {
  EXPECT_EQ(columns("∂W·x"), 4U);
  EXPECT_EQ(columns(""), 0U);
}

TEST(letters, that_are_unwelcome_are_found_at_any_place_of_a_long_text) {
  const std::vector<std::string> fillings = {"plain ", "é", "lines\nand\ttabs\r\n", "a€"};
  for (const std::string& filling : fillings) {
    for (std::size_t letters = 0; letters < 300; letters += 7) {
      std::string text;
      while (columns(text) < letters)
        text += filling;
      EXPECT_EQ(unwelcome_in(text), std::nullopt);
      EXPECT_TRUE(is_utf8(text));
      const std::size_t place = columns(text) + 1;
      for (const std::string_view end : {"", " more of it", "é"}) {
        EXPECT_EQ(unwelcome_in(fmt::format("{}\x01{}", text, end)),
                  fmt::format("U+0001 as letter {}: a control character", place));
        EXPECT_EQ(unwelcome_in(fmt::format("{}\xFF{}", text, end)),
                  fmt::format("the byte 0xFF as letter {}: not UTF-8", place));
        EXPECT_FALSE(is_utf8(fmt::format("{}\xFF{}", text, end)));
      }
    }
  }
}

TEST(trimmed, leaves_blanks_inside) {
  EXPECT_EQ(trimmed(" \t a b \r\n"), "a b");
  EXPECT_EQ(trimmed("  "), "");
}

TEST(letters, are_those_of_utf_8_and_no_others) {
  for (const char* const text :
       {"", "a", "é", "€", "😀", "\xF4\x8F\xBF\xBF", "\xED\x9F\xBF", "\xEE\x80\x80"})
    EXPECT_TRUE(is_utf8(text)) << text;
  for (const char* const text :
       {"\xFF", "\xC0\xAF", "\xC1\xBF", "\xED\xA0\x80", "\xED\xBF\xBF", "\xF4\x90\x80\x80",
        "\xE0\x80\xAF", "\xE0\x9F\xBF", "\xF0\x80\x80\xAF", "\xF0\x8F\xBF\xBF", "\xF5\x80\x80\x80",
        "\x80", "a\xC3", "\xE2\x82", "\xE2(\xAC", "\xF0\x9F\x98"})
    EXPECT_FALSE(is_utf8(text)) << text;
}

TEST(letters, that_no_name_may_hold_are_told_with_their_place) {
  for (const char* const text :
       {"", "'t Hof", "6''", "50%", "{a}", "x_1^2", "@", "\\", "a\tb", "a\r\nb", "😀"})
    EXPECT_EQ(unwelcome_in(text), std::nullopt) << text;
  EXPECT_EQ(unwelcome_in(std::string_view("ab\0c", 4)), "U+0000 as letter 3: a control character");
  EXPECT_EQ(unwelcome_in("é\x1b[31m"), "U+001B as letter 2: a control character");
  EXPECT_EQ(unwelcome_in("\x7f"), "U+007F as letter 1: a control character");
  EXPECT_EQ(unwelcome_in("\xC2\x9F"), "U+009F as letter 1: a control character");
  EXPECT_EQ(unwelcome_in("\xC2\xA0"), std::nullopt);
  EXPECT_EQ(unwelcome_in("a\xEF\xBF\xBE"), "U+FFFE as letter 2: not a letter");
  EXPECT_EQ(unwelcome_in("a\xC0\xAF"), "the byte 0xC0 as letter 2: not UTF-8");
}

TEST(letters, that_would_steer_a_terminal_are_shown_as_signs) {
  EXPECT_EQ(harmless("plain, 'quoted' é 😀"), "plain, 'quoted' é 😀");
  EXPECT_EQ(harmless("\x1b[2J\a\x7f"), "␛[2J␇␡");
  EXPECT_EQ(harmless(std::string_view("\0", 1)), "␀");
  EXPECT_EQ(harmless("a\tb\nc\rd"), "a b c d");
  EXPECT_EQ(harmless("a\nb\rc", LineBreaks::kept), "a\nb c");
  EXPECT_EQ(harmless("\xC2\x9B\xE2\x80\xAE\xE2\x81\xA6\xEF\xBF\xBF\xFF"), "�����");
  // Whatever comes, what is shown is plain text.
  Random random(3);
  for (int trial = 0; trial < 2000; ++trial) {
    std::string bytes;
    for (std::int64_t at = random.below(30); at > 0; --at)
      bytes += static_cast<char>(random.below(256));
    EXPECT_EQ(unwelcome_in(harmless(bytes)), std::nullopt);
    EXPECT_EQ(harmless(harmless(bytes)), harmless(bytes));
    EXPECT_EQ(is_utf8(bytes) && harmless(bytes) == bytes, harmless(bytes) == bytes);
  }
}

}  // namespace
}  // namespace lattice
