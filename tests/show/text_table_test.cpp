#include "show/text_table.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

namespace lattice {
namespace {

using ::testing::HasSubstr;
using ::testing::Not;

TEST(text_table, shortens_the_widest_words_in_their_middle_and_says_whether_it_fits) {
  using Set = TextTable::Set;
  TextTable table({{"", Set::left}, {"loss"}});
  const std::string name = std::string(60, 'a') + std::string(60, 'b') + "c";
  table.add({name, "0.5"});
  EXPECT_FALSE(table.fits(page_width));
  EXPECT_THAT(table.text({}), HasSubstr("bbc  "));
  EXPECT_THAT(table.text({}), HasSubstr("aa…bb"));
  table.label_rows({"1"});
  EXPECT_TRUE(table.fits(page_width));
  EXPECT_THAT(table.text({}), Not(HasSubstr("…")));
}

TEST(text_table, fills_up_rows_that_say_less) {
  TextTable table({{"record", TextTable::Set::left}, {"answer", TextTable::Set::left}, {"share"}});
  table.add({"0", "none"});
  table.add({"1", "bowl", "0.5"});
  EXPECT_EQ(table.text({}), "record  answer  share\n0       none\n1       bowl      0.5\n");
}

}  // namespace
}  // namespace lattice
