#include "lattice/data/field_rows.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <algorithm>
#include <iterator>
#include <string>
#include <vector>

#include "lattice/core.hpp"

namespace lattice {
namespace {

using ::testing::ElementsAre;

static_assert(std::random_access_iterator<FieldRows::iterator>);
static_assert(std::random_access_iterator<FieldRows::Row::iterator>);

TEST(field_rows, are_what_was_put_in_whatever_it_was) {
  Random random(5);
  const std::vector<std::string> texts = {
      "", "a", "18.5", "a longer text than most of the others", std::string(1, '\0'), "é"};
  std::vector<std::vector<std::string>> expected;
  FieldRows rows;
  for (int row = 0; row < 300; ++row) {
    std::vector<std::string> fields;
    for (std::int64_t count = random.below(7); count > 0; --count)
      fields.push_back(texts[static_cast<std::size_t>(random.below(std::ssize(texts)))]);
    expected.push_back(fields);
    rows.push_back(fields);
  }
  const auto expect_same = [&] {
    ASSERT_EQ(rows.size(), expected.size());
    for (std::size_t row = 0; row < rows.size(); ++row) {
      ASSERT_EQ(rows[row].empty(), expected[row].empty());
      ASSERT_EQ(std::vector<std::string>(rows[row].begin(), rows[row].end()), expected[row]);
    }
    std::size_t row = 0;
    for (const FieldRows::Row each : rows)
      ASSERT_TRUE(std::ranges::equal(each, expected[row++]));
  };
  expect_same();
  for (int drop = 0; drop < 3; ++drop) {
    rows.drop_first();
    expected.erase(expected.begin());
  }
  expect_same();
  rows.push_back(rows[7]);  // its own texts
  expected.push_back(expected[7]);
  expect_same();
}

TEST(field_rows, are_gone_through_from_any_place) {
  const FieldRows rows = {{"a", "b", "c"}, {"d"}, {"e", "f"}};
  EXPECT_THAT(rows,
              ElementsAre(ElementsAre("a", "b", "c"), ElementsAre("d"), ElementsAre("e", "f")));
  EXPECT_EQ(rows.front().back(), "c");
  EXPECT_EQ(rows.back().front(), "e");
  const FieldRows::Row row = rows[0];
  auto at = row.begin() + 1;
  EXPECT_EQ(*at, "b");
  EXPECT_EQ(*at++, "b");
  EXPECT_EQ(*at--, "c");
  EXPECT_EQ(at[-1], "a");
  EXPECT_EQ(*(1 + at), "c");
  EXPECT_EQ(row.end() - at, 2);
  EXPECT_LT(row.begin(), at);
  EXPECT_TRUE(std::ranges::any_of(rows, [](const FieldRows::Row& each) { return each[0] == "d"; }));
}

TEST(field_rows, are_equal_where_every_text_is) {
  const FieldRows rows = {{"a", "bc"}, {"d"}};
  EXPECT_EQ(rows, (FieldRows{{"a", "bc"}, {"d"}}));
  EXPECT_NE(rows, (FieldRows{{"ab", "c"}, {"d"}}));
  EXPECT_NE(rows, (FieldRows{{"a", "bc"}}));
  EXPECT_NE(rows, (FieldRows{{"a", "bc", "d"}}));
  FieldRows later = {{"x"}, {"a", "bc"}, {"d"}};
  later.drop_first();
  EXPECT_EQ(rows, later);
}

TEST(field_rows, change_by_letters) {
  FieldRows rows = {{"x"}, {"1,5", "2,25"}};
  rows.set_letter(1, 1, 1, '.');
  EXPECT_THAT(rows[1], ElementsAre("1,5", "2.25"));
  rows.drop_first();
  rows.set_letter(0, 0, 1, '.');
  EXPECT_THAT(rows, ElementsAre(ElementsAre("1.5", "2.25")));
}

TEST(row_sources, tell_of_every_row_where_it_is_from) {
  Random random(3);
  RowSources sources;
  std::vector<RowSources::Source> expected;
  std::size_t row = 1;
  std::size_t line = 2;
  const std::vector<std::string> files = {"may.csv", "june.csv"};
  for (int at = 0; at < 500; ++at) {
    if (random.below(20) == 0) row += 2;
    if (random.below(20) == 0) line = line == 0 ? 7 : line + 3;
    if (random.below(40) == 0) line = 0;
    const RowSources::Source source{.file = files[at < 250 ? 0 : 1], .row = row, .line = line};
    sources.add(source);
    expected.push_back(source);
    ++row;
    if (line > 0) ++line;
  }
  EXPECT_FALSE(sources.have_parts());
  for (const bool have_parts : {false, true}) {
    ASSERT_EQ(sources.size(), expected.size());
    for (std::size_t at = 0; at < expected.size(); ++at) {
      EXPECT_EQ(sources[at].file, expected[at].file);
      EXPECT_EQ(sources[at].row, expected[at].row);
      EXPECT_EQ(sources[at].line, expected[at].line);
      EXPECT_EQ(sources[at].part.has_value(), have_parts);
    }
    sources.set_part(DataPart::test);
  }
  EXPECT_EQ(sources[3].part, DataPart::test);
  sources.add({.file = "june.csv", .row = row, .line = line});
  EXPECT_FALSE(sources[500].part.has_value());
  EXPECT_TRUE(sources.have_parts());
}

}  // namespace
}  // namespace lattice
