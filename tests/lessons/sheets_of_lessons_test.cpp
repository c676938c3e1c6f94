#include <gtest/gtest.h>

#include <filesystem>
#include <string>

#include "lattice/lessons/prepare.hpp"
#include "lattice/worksheet/sheet_text.hpp"
#include "support/worked_lessons.hpp"

namespace lattice {
namespace {

/// Every line and gradient of a worked sheet, to the last bit, once its text is read again.
void expect_read_back(const WorkedSheet& work, const AxisNames& names) {
  const std::string text = sheet_text(work.sheet(), work.result(), {.names = names});
  const ReadSheet read = read_sheet(text);
  ASSERT_EQ(read.sheet.size(), work.sheet().size());
  for (const Line& line : work.sheet().lines()) {
    const Line again = read.sheet.line(line.number());
    EXPECT_EQ(again.operation(), line.operation()) << line.name();
    EXPECT_EQ(again.section(), line.section()) << line.name();
    EXPECT_EQ(to_string(again.shape()), to_string(line.shape())) << line.name();
    EXPECT_EQ(again.value(), line.value()) << line.name();
  }
  EXPECT_EQ(read.heading.names.features, names.features);
  EXPECT_EQ(read.heading.names.classes, names.classes);
  ASSERT_EQ(read.result.number(), work.result().number());
  const Gradients gradients = reverse_sweep(read.result);
  const Gradients expected = work.sweep().gradients();
  for (const Gradients::Entry& entry : expected)
    EXPECT_EQ(gradients[entry.weight], entry.gradient) << entry.weight;
  for (const Gradients::Next& next : expected.running())
    EXPECT_EQ(read.sheet.line(next.name).next()->value(), next.value) << next.name;
}

TEST(sheets_of_lessons, give_back_every_demo_lesson) {
  for (const auto& entry : std::filesystem::directory_iterator(LATTICE_SOURCE "/demo/lessons")) {
    SCOPED_TRACE(entry.path().filename().string());
    Lesson lesson = read_lesson(entry.path());
    if (lesson.data.demo_set() != "studios") lesson.batch = 3;
    const Prepared prepared = prepare(lesson);
    expect_read_back(prepared.work(1), prepared.data().axis_names());
  }
}

TEST(sheets_of_lessons, give_back_every_rule_loss_and_layer) {
  for (const auto& [lesson, step] : testing::worked_lessons()) {
    SCOPED_TRACE(lesson.network.blueprint);
    const Prepared prepared = prepare(lesson);
    expect_read_back(prepared.work(step), prepared.data().axis_names());
  }
}

}  // namespace
}  // namespace lattice
