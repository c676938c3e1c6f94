#include "lattice/learning/worked_example.hpp"

#include <gmock/gmock.h>

#include <string>
#include <utility>

#include "lattice/core.hpp"

namespace lattice {
namespace {

using ::testing::HasSubstr;

/// w from 3 down the parabola (w − 1)².
WorkedExample down(const SheetSettings& settings) {
  Worksheet sheet;
  const Line w = sheet.weight("w", tensor(3));
  const Line cost = named("cost", square(w - 1));
  return work_sheet(std::move(sheet), cost, settings);
}

TEST(work_sheet, works_any_worksheet_forward_and_back) {
  const WorkedExample example = down({.title = "Down"});
  EXPECT_EQ(example.title, "Down");
  ASSERT_EQ(example.steps.size(), 1);
  const WorkedSheet& work = example.steps.front().work;
  EXPECT_EQ(work.result_before(), 4.0);
  EXPECT_EQ(work.sweep().gradient("w").number(), 4.0);
  EXPECT_TRUE(work.updates().empty());
  EXPECT_FALSE(work.result_after().has_value());
}

TEST(work_sheet, updates_step_by_step) {
  const WorkedExample example = down({.rule = Descent{.rate = 0.1}, .steps = {3, 1, 3}});
  ASSERT_EQ(example.steps.size(), 2);
  // w − 1 becomes 0.8 of what it was with each step.
  const WorkedSheet& first = example.steps[0].work;
  EXPECT_EQ(example.steps[0].step, 1);
  EXPECT_NEAR(first.updates().front().after.number(), 1.0 + 2.0 * 0.8, 1e-15);
  EXPECT_NEAR(*first.result_after(), 4.0 * 0.64, 1e-14);
  const WorkedSheet& third = example.steps[1].work;
  EXPECT_EQ(example.steps[1].step, 3);
  EXPECT_NEAR(third.updates().front().before.number(), 1.0 + 2.0 * 0.64, 1e-15);
  EXPECT_NEAR(third.result_before(), 4.0 * 0.64 * 0.64, 1e-14);
  EXPECT_NEAR(*third.result_after(), third.result_before() * 0.64, 1e-14);
}

TEST(work_sheet, remembers_what_a_rule_remembers) {
  const WorkedExample example =
      down({.rule = Momentum{.rate = 0.1}, .clip_norm = 1.0, .steps = {1, 2}});
  const WorkedSheet& second = example.steps[1].work;
  EXPECT_EQ(second.clip_factor(), 1.0 / second.sweep().gradient("w").number());
  // The clipped gradient of the first step is 1.
  EXPECT_EQ(second.remembered(second.updates().front()).front().numbers.number(), 1.0);
}

TEST(work_sheet, moves_a_running_statistic_and_leaves_frozen_weights) {
  Worksheet sheet;
  const Line w = sheet.weight("w", tensor(2));
  const Line f = sheet.frozen("f", tensor(5));
  const Line m = sheet.running_statistic("m", tensor(1));
  sheet.set_next(m, 0.5 * m + w);
  const Line cost = named("cost", square(w * f));
  const WorkedExample example =
      work_sheet(std::move(sheet), cost, {.rule = Descent{.rate = 0.01}, .steps = {1, 2}});
  const Worksheet& second = example.steps[1].work.sheet();
  EXPECT_EQ(second.line("f").value().number(), 5.0);
  EXPECT_EQ(second.line("m").value().number(), 2.5);
  EXPECT_EQ(second.line("w").value().number(), 2.0 - 0.01 * 100.0);
}

TEST(work_sheet, has_no_sweep_where_there_is_nothing_to_sweep) {
  Worksheet data;
  const Line x = data.given("x", tensor({1, 2}));
  const Line z = named("z", x + 1);
  const WorkedExample of_data = work_sheet(std::move(data), z);
  EXPECT_FALSE(of_data.steps.front().work.has_sweep());
  EXPECT_TRUE(of_data.steps.front().work.reverse_steps().empty());
  EXPECT_THROW(static_cast<void>(of_data.steps.front().work.sweep()), ShapeError);

  Worksheet several;
  const Line v = several.weight("v", tensor({1, 2}));
  const WorkedExample of_several = work_sheet(std::move(several), v);
  EXPECT_FALSE(of_several.steps.front().work.has_sweep());
}

TEST(work_sheet, refuses_what_it_cannot_work) {
  EXPECT_THROW(static_cast<void>(down({.rule = Descent{}, .steps = {0}})), SettingError);
  EXPECT_THROW(static_cast<void>(down({.rule = Descent{}, .steps = {}})), SettingError);
  EXPECT_THROW(static_cast<void>(down({.steps = {2}})), SettingError);
  Worksheet data;
  const Line x = data.given("x", tensor(1));
  const Line z = named("z", x + 1);
  EXPECT_THROW(static_cast<void>(work_sheet(std::move(data), z, {.rule = Descent{.rate = 0.1}})),
               NameError);
}

TEST(worked_sheet, takes_numbers_as_every_form_calls_them) {
  using Ask = WorkedSheet::Ask;
  EXPECT_EQ(WorkedSheet::parse_asked("z[4,0]").ask, Ask::value);
  EXPECT_EQ(WorkedSheet::parse_asked("∂z[4,0]").ask, Ask::gradient);
  EXPECT_EQ(WorkedSheet::parse_asked("∂z[4,0]").place.line, "z");
  EXPECT_EQ(WorkedSheet::parse_asked(" new W[1,0] ").ask, Ask::update);
  EXPECT_EQ(WorkedSheet::parse_asked("new W[1,0]").place.at, (Index{1, 0}));
  EXPECT_EQ(WorkedSheet::parse_asked("new").place.line, "new");
}

}  // namespace
}  // namespace lattice
