#include "lattice/text/nearest.hpp"

#include <gtest/gtest.h>

#include <string>
#include <vector>

#include "lattice/text/error.hpp"

namespace lattice {
namespace {

TEST(text, finds_the_nearest_candidate) {
  const std::vector<std::string> verbs{"work", "why", "train"};
  EXPECT_EQ(nearest("wrok", verbs), "work");
  EXPECT_EQ(nearest("trian", verbs), "train");
  EXPECT_EQ(nearest("q", verbs), "");
  EXPECT_EQ(nearest("something", verbs), "");
}

TEST(names, that_stand_for_nothing_are_told_with_those_that_do) {
  const std::vector<std::string> known = {"bowl", "jug"};
  const Trouble near = not_among("no such pot", "bowk", known);
  EXPECT_EQ(near.expected, "one of bowl, jug");
  EXPECT_EQ(near.found, "'bowk'");
  EXPECT_EQ(near.remedy, "did you mean bowl?");
  EXPECT_EQ(not_among("no such pot", "plate", known).remedy, "");
}

}  // namespace
}  // namespace lattice
