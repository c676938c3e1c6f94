#include "show/page_words.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <filesystem>
#include <nlohmann/json.hpp>
#include <regex>

#include "lattice/lattice.hpp"
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

TEST(note_on, says_where_a_number_is_from_that_is_not_calculated) {
  const AxisNames names{.features = {"iron", "gloss"}, .targets = {"glaze"}, .classes = {"a", "b"}};
  const WorkedMinibatch work(
      Network(Shape{2}, "dense 2", Random(1)),
      {.rows = {7, 3},
       .features = tensor({{1, 2}, {3, 4}}).with({Role::example, Role::feature}),
       .classes = tensor({0, 1})},
      Momentum{.rate = 0.1});
  const WorkTables tables(work);
  const auto note = [&](std::string_view name) {
    for (std::size_t at = 0; at < tables.all().size(); ++at) {
      if (tables[at].name == name) return note_on(tables, at, names);
    }
    return std::string("no such table");
  };
  EXPECT_EQ(note("x"), "Given: row {row} of the data, column {column}.");
  EXPECT_EQ(note("y"), "Given: row {row} of the data, column {target}{class}.");
  EXPECT_THAT(note("output.weight"), ::testing::StartsWith("A weight:"));
  EXPECT_THAT(note("∂loss"), ::testing::StartsWith("The sweep starts here"));
  EXPECT_EQ(note("rate"), "A setting of the update rule.");
  EXPECT_THAT(note("velocity_before"), ::testing::HasSubstr("remembered"));
}

TEST(note_on, names_a_column_only_where_it_has_a_name) {
  const WorkedMinibatch work(Network(Shape{2}, "dense 1", Random(1)),
                             {.rows = {},
                              .features = tensor({{1, 2}}).with({Role::example, Role::feature}),
                              .targets = tensor({{1}})},
                             Descent{});
  EXPECT_EQ(note_on(WorkTables(work), 0, {}), "Given: it is data, not calculated (line 1).");
  EXPECT_EQ(note_on(WorkTables(work), 0, {.features = {"a", "b"}}), "Given: column {column}.");
}

}  // namespace
}  // namespace lattice
