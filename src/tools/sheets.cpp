#include "tools/sheets.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <filesystem>
#include <utility>

#include "files/file.hpp"
#include "lattice/data/demo_sets.hpp"
#include "lattice/learning/work_entry.hpp"
#include "lattice/lessons/lesson_data.hpp"
#include "lattice/text/error.hpp"
#include "lattice/text/nearest.hpp"
#include "lattice/version.hpp"
#include "tools/named.hpp"

namespace lattice::tools {
namespace {

namespace fs = std::filesystem;

/// The rows that a sheet asks for, of a demo set or of a table beside it.
SheetData rows_for_sheet(const AskedRows& asked, const std::string& sheet, const Console& console) {
  const std::string& set = asked.set;
  Lesson lesson;
  lesson.data.columns.targets = asked.targets;
  lesson.data.columns.features = asked.features;
  if (set.ends_with(".csv")) {
    const fs::path path(set);
    const fs::path folder = fs::path(sheet).parent_path();
    lesson.data.files = {path.is_absolute() ? set : (folder / path).string()};
    note_what_is_outside(lesson, sheet);
    say_what_is_outside(lesson, console);
  } else if (std::ranges::find(demo_sets(), set, &DemoSet::name) == demo_sets().end()) {
    std::vector<std::string> known;
    for (const DemoSet& each : demo_sets())
      known.push_back(each.name);
    Trouble trouble = not_among("there is no such data set", set, known);
    if (trouble.remedy.empty())
      trouble.remedy = "a table of your own beside the sheet: data my.csv";
    throw NameError(trouble);
  } else {
    lesson.data.set = set;
  }
  const Dataset data = read_data(lesson).data;
  const std::int64_t end = asked.last < 0 ? data.rows() : asked.last + 1;
  if (asked.first >= end || end > data.rows()) {
    throw IndexError({.what = fmt::format("{} has no such rows", data.name),
                      .expected = fmt::format("rows from 0 to {}", data.rows() - 1),
                      .found = fmt::format("{} to {}", asked.first, asked.last)});
  }
  SheetData found;
  found.heading = {.title = data.name, .names = data.axis_names()};
  for (std::int64_t row = asked.first; row < end; ++row)
    found.heading.rows.push_back(row);
  found.features = data.features.rows(found.heading.rows);
  if (!data.targets.empty()) found.targets = data.targets.rows(found.heading.rows);
  if (!data.classes.empty()) found.classes = data.classes.rows(found.heading.rows);
  return found;
}

/// The rows of a data set that are on a sheet; none where it has its own numbers.
Batch rows_of(const ReadSheet& read) {
  Batch batch;
  if (read.heading.rows.empty()) return batch;
  batch.rows = read.heading.rows;
  batch.features = read.sheet.line("x").value();
  if (const std::optional<Line> truth = read.sheet.find("y")) {
    (truth->shape().rank() == 1 ? batch.classes : batch.targets) = truth->value();
  }
  return batch;
}

}  // namespace

void SheetOptions::declare(Verb& verb) {
  verb.heading("Sheet");
  verb.texts("--given", given_, "Data of a sheet of your own: 'x = zeros(4, 4)'; may be repeated",
             "LINE");
  verb.texts("--weight", weights_, "A weight of it: 'W = [[80]]'; may be repeated", "LINE");
  verb.texts("--line", lines_, "A line of it: 'z = (x + 2)·5'; may be repeated", "LINE");
}

bool SheetOptions::names_sheet(const LessonOptions& options) const {
  const bool has_lines = !given_.empty() || !weights_.empty() || !lines_.empty();
  const bool is_file = what_is_named(options.subject) == Named::sheet_file;
  if (has_lines && !is_file && !options.subject.empty()) {
    throw SettingError({.what = "lines of a sheet and a lesson exclude each other",
                        .expected = "one of them",
                        .found = fmt::format("{} and lines", options.subject)});
  }
  if (!is_file && !has_lines) return false;
  std::vector<std::string> known = {"title", "seed", "rule", "clip_norm"};
  for (const auto& [name, number] : options.lesson_on({}).rule_settings)
    known.push_back(name);
  options.check_for(is_file ? options.subject : "what --line says", "a sheet",
                    "a sheet with --rule and settings of the rule", known);
  return true;
}

std::string SheetOptions::text(const LessonOptions& options) const {
  std::string text;
  if (!options.subject.empty()) text = read_file(options.subject, "a sheet") + "\n";
  for (const std::string& each : given_)
    text += fmt::format("given {}\n", each);
  for (const std::string& each : weights_)
    text += fmt::format("weight {}\n", each);
  for (const std::string& each : lines_)
    text += each + "\n";
  return text;
}

WorkedExample SheetOptions::work(const LessonOptions& options,
                                 const std::vector<std::int64_t>& steps, const Console& console,
                                 std::int64_t further) const {
  const Lesson lesson = options.lesson_on({});
  const std::string& file = options.subject;
  SheetReading reading{
      .name = file.empty() ? "the lines" : fs::path(file).filename().string(),
      .data = [&](const AskedRows& rows) { return rows_for_sheet(rows, file, console); }};
  if (options.names("seed")) reading.seed = lesson.seed;
  ReadSheet read = read_sheet(text(options), reading);
  SheetSettings settings{.title = !lesson.title.empty()         ? lesson.title
                                  : !read.heading.title.empty() ? read.heading.title
                                  : !file.empty()               ? reading.name
                                  : !lines_.empty()             ? lines_.back()
                                                                : "A sheet",
                         .names = read.heading.names,
                         .clip_norm = lesson.training.clip_norm,
                         .further = further,
                         .rows = rows_of(read)};
  const bool has_rule =
      options.names("rule") || options.names("clip_norm") || !lesson.rule_settings.empty();
  if (has_rule) settings.rule = rule_of(lesson);
  if (!steps.empty()) settings.steps = steps;
  WorkedExample example = work_sheet(std::move(read.sheet), read.result, settings);
  if (!file.empty() && example.title != reading.name) example.about.push_back(reading.name);
  for (std::string& words : rule_in_words(example.steps.front().work, options.digits))
    example.about.push_back(std::move(words));
  return example;
}

std::vector<std::string> in_words(const WorkedExample& sheet) {
  std::vector<std::string> words = {sheet.title};
  words.insert(words.end(), sheet.about.begin(), sheet.about.end());
  return words;
}

Json sheet_settings_json(const WorkedExample& example) {
  return {{"version", version}, {"title", example.title}};
}

}  // namespace lattice::tools
