#include "lattice/text/phrase.hpp"

#include <gtest/gtest.h>

#include <vector>

namespace lattice {
namespace {

TEST(phrase, is_a_word_and_numbers) {
  const Phrase phrase = parse_phrase(" steps  10 −0.5");
  EXPECT_EQ(phrase.word, "steps");
  EXPECT_EQ(phrase.numbers, (std::vector<double>{10, -0.5}));
  EXPECT_TRUE(phrase.is_readable);
  EXPECT_FALSE(parse_phrase("steps ten").is_readable);
  EXPECT_EQ(parse_phrase("").word, "");
}

}  // namespace
}  // namespace lattice
