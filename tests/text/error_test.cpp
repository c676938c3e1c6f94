#include "lattice/text/error.hpp"

#include <gtest/gtest.h>

#include <string>

#include "lattice/text/letters.hpp"

namespace lattice {
namespace {

TEST(error, puts_its_fields_below_each_other) {
  const Error error({.what = "no such pot",
                     .where = "shelf 3",
                     .expected = "",
                     .found = "a jug",
                     .remedy = "look again"});
  EXPECT_STREQ(error.what(),
               "no such pot\n  where:    shelf 3\n  found:    a jug\n  try:      look again");
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
