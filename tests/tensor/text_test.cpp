#include "lattice/tensor/text.hpp"

#include <gtest/gtest.h>

#include <algorithm>

#include "lattice/tensor/random.hpp"

#include <cmath>
#include <limits>

#include "lattice/tensor/error.hpp"
#include "lattice/tensor/numbers.hpp"

namespace lattice {
namespace {

TEST(numbers, are_written_for_reading) {
  EXPECT_EQ(format_number(0.31), "0.31");
  EXPECT_EQ(format_number(-2.5), "−2.5");
  EXPECT_EQ(format_number(1.0 / 3.0), "0.33333");
  EXPECT_EQ(format_number(1.2e-7), "1.2e−7");
  EXPECT_EQ(format_number(-3e20), "−3e20");
  EXPECT_EQ(format_number(182412.6), "182413");
  EXPECT_EQ(format_number(-0.0), "0");
  EXPECT_EQ(format_number(std::numeric_limits<double>::infinity()), "∞");
  EXPECT_EQ(format_number(-std::numeric_limits<double>::infinity()), "−∞");
  EXPECT_EQ(format_number(std::nan("")), "NaN");
  EXPECT_EQ(format_number(0.1, all_digits), "0.1");
  EXPECT_EQ(format_number(1.0 / 3.0, all_digits), "0.3333333333333333");
}

TEST(numbers, are_read_back_as_they_are_written) {
  for (const double number : {0.0, 1.5, -2.25e-9, 1e300, -1.0 / 3.0, 123456789.123}) {
    EXPECT_EQ(parse_number(format_number(number, all_digits)), number);
  }
  EXPECT_EQ(parse_number(" +4.5 "), 4.5);
  EXPECT_EQ(parse_number("-.5"), -0.5);
  EXPECT_EQ(parse_number("1e400"), std::numeric_limits<double>::infinity());
  EXPECT_TRUE(std::isnan(*parse_number("nan")));
  for (const char* text : {"", " ", "four", "1,5", "1.5x", "+-1", "0x10", "--1", "+"}) {
    EXPECT_FALSE(parse_number(text)) << text;
  }
  EXPECT_EQ(parse_whole_number(" -12 "), -12);
  for (const char* text : {"", "1.0", "1e3", "+1", "12x", "9223372036854775808"}) {
    EXPECT_FALSE(parse_whole_number(text)) << text;
  }
}

TEST(text, counts_columns_not_bytes) {
  EXPECT_EQ(columns("∂W·x"), 4U);
  EXPECT_EQ(columns(""), 0U);
}

TEST(text, breaks_formulas_in_front_of_the_outermost_signs) {
  EXPECT_EQ(wrap_formula("a + b", 4, 80), "a + b");
  EXPECT_EQ(wrap_formula("aaaa + (b + c) − dddd", 2, 14), "aaaa\n  + (b + c)\n  − dddd");
  EXPECT_EQ(wrap_formula("toolongforthis", 2, 5), "toolongforthis");
}

TEST(text, finds_the_nearest_candidate) {
  const std::vector<std::string> verbs{"work", "why", "train"};
  EXPECT_EQ(nearest("wrok", verbs), "work");
  EXPECT_EQ(nearest("trian", verbs), "train");
  EXPECT_EQ(nearest("q", verbs), "");
  EXPECT_EQ(nearest("something", verbs), "");
}

TEST(error, puts_its_fields_below_each_other) {
  const Error error({.what = "no such pot",
                     .where = "shelf 3",
                     .expected = "",
                     .found = "a jug",
                     .remedy = "look again"});
  EXPECT_STREQ(error.what(),
               "no such pot\n  where:    shelf 3\n  found:    a jug\n  try:      look again");
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

TEST(trimmed, leaves_blanks_inside) {
  EXPECT_EQ(trimmed(" \t a b \r\n"), "a b");
  EXPECT_EQ(trimmed("  "), "");
}

TEST(phrase, is_a_word_and_numbers) {
  const Phrase phrase = parse_phrase(" steps  10 −0.5");
  EXPECT_EQ(phrase.word, "steps");
  EXPECT_EQ(phrase.numbers, (std::vector<double>{10, -0.5}));
  EXPECT_TRUE(phrase.is_readable);
  EXPECT_FALSE(parse_phrase("steps ten").is_readable);
  EXPECT_EQ(parse_phrase("").word, "");
}

TEST(names, that_stand_for_nothing_are_told_with_those_that_do) {
  const std::vector<std::string> known = {"bowl", "jug"};
  const Trouble near = not_among("no such pot", "bowk", known);
  EXPECT_EQ(near.expected, "one of bowl, jug");
  EXPECT_EQ(near.found, "'bowk'");
  EXPECT_EQ(near.remedy, "did you mean bowl?");
  EXPECT_EQ(not_among("no such pot", "plate", known).remedy, "");
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

TEST(errors, are_as_long_as_can_be_read) {
  std::string long_name = "a";
  while (long_name.size() < 100'000)
    long_name += "é";
  const std::string said = Error({.what = long_name, .found = "x"}).what();
  EXPECT_LT(said.size(), 2'100U);
  EXPECT_TRUE(is_utf8(said));
  EXPECT_NE(said.find(" …\n  found:    x"), std::string::npos);
}

}  // namespace
}  // namespace lattice
