#include "lattice/learning/work_entry.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <algorithm>

#include "lattice/core.hpp"

namespace lattice {
namespace {

using ::testing::HasSubstr;
using ::testing::IsEmpty;
using Stage = WorkEntry::Stage;

Batch two_rows() {
  return {.rows = {0, 1}, .features = tensor({{1, 2}, {3, 4}}), .targets = tensor({{1}, {2}})};
}

WorkedMinibatch worked(double rate) {
  return {Network(Shape{2}, "hidden: dense 2, tanh, dense 1", Random(1)), two_rows(),
          Descent{.rate = rate}};
}

const WorkEntry& entry_called(const std::vector<WorkEntry>& entries, std::string_view name) {
  return *std::ranges::find(entries, name, &WorkEntry::name);
}

TEST(work_entries, have_titles_and_headings_of_their_stage) {
  const std::vector<WorkEntry> entries = entries_of(worked(0.01));
  const WorkEntry& line = entry_called(entries, "tanh");
  EXPECT_EQ(line.title, "tanh = tanh(hidden)");
  EXPECT_EQ(line.heading(), "tanh");
  EXPECT_EQ(line.operation, "tanh");
  const WorkEntry& given = entry_called(entries, "x");
  EXPECT_EQ(given.title, "x");
  const WorkEntry& back = entry_called(entries, "∂tanh");
  EXPECT_EQ(back.title, "∂tanh");
  EXPECT_EQ(back.heading(), "reverse sweep");
  ASSERT_EQ(back.passed_on.size(), 1U);
  EXPECT_EQ(back.passed_on.front().to, "hidden");
  EXPECT_TRUE(back.passed_on.front().is_whole);
  EXPECT_THAT(back.note, IsEmpty());
  EXPECT_EQ(entry_called(entries, "∂hidden.weight").note, "A weight: the sweep ends here.");
  EXPECT_EQ(entry_called(entries, "new hidden.weight").heading(), "update");
}

TEST(work_entries, say_why_a_loss_did_not_fall_only_where_it_did_not) {
  EXPECT_THAT(entries_of(worked(0.01)).back().note, IsEmpty());
  const WorkedMinibatch far(Network(Shape{2}, "dense 1", Random(1)), two_rows(),
                            Descent{.rate = 100.0});
  EXPECT_THAT(entries_of(far).back().note, HasSubstr("It rose"));
  const Network still(Shape{2}, "dense 1 start zeros", Random(1));
  Batch right = two_rows();
  right.targets = tensor({{0}, {0}});
  EXPECT_THAT(entries_of(WorkedMinibatch(still, right, Descent{})).back().note,
              HasSubstr("as every weight did"));
}

TEST(work_entries, name_the_rate_of_a_weight_that_has_one) {
  Network net(Shape{2}, "hidden: dense 1", Random(1));
  net.set_rate_multiplier("hidden", 0.1);
  const WorkedMinibatch work(net, two_rows(), Descent{});
  EXPECT_EQ(entry_called(entries_of(work), "new hidden.weight").note, "at 0.1 × the rate");
}

TEST(rule_in_words, names_settings_and_the_factor_of_clipped_gradients) {
  EXPECT_EQ(rule_in_words(worked(0.01), 4), std::vector<std::string>{"descent · rate 0.01"});
}

}  // namespace
}  // namespace lattice
