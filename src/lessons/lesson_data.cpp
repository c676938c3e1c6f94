#include "lattice/lessons/lesson_data.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <utility>

#include "lattice/data/demo_sets.hpp"
#include "lattice/files/csv.hpp"
#include "lattice/lessons/lesson_subject.hpp"
#include "lattice/tensor/random.hpp"
#include "lattice/text/error.hpp"
#include "lessons/column_check.hpp"

namespace lattice {
namespace {

/// Draws as many rows as the lesson asks for, in their order.
/// @param drawn_from how many there were, where some were drawn
DrawRows drawing_for(const Lesson& lesson, std::int64_t& drawn_from) {
  return [&lesson, &drawn_from](std::int64_t count) -> std::optional<std::vector<std::int64_t>> {
    if (!lesson.data.rows || *lesson.data.rows >= count) return std::nullopt;
    std::vector<std::int64_t> rows = Random(lesson.seed).branch("rows of a file").shuffled(count);
    rows.resize(static_cast<std::size_t>(*lesson.data.rows));
    std::ranges::sort(rows);
    drawn_from = count;
    return rows;
  };
}

/// A dataset with rows that are drawn, and those of fixed parts.
Dataset with_rows_drawn(const Dataset& data, const DrawRows& draw) {
  std::vector<std::int64_t> kept;
  for (const FixedPart& part : data.fixed_parts)
    kept.insert(kept.end(), part.rows.begin(), part.rows.end());
  std::ranges::sort(kept);
  std::vector<std::int64_t> others;
  for (std::int64_t row = 0; row < data.rows(); ++row) {
    if (!std::ranges::binary_search(kept, row)) others.push_back(row);
  }
  const std::optional<std::vector<std::int64_t>> drawn = draw(std::ssize(others));
  if (!drawn) return data;
  for (const std::int64_t place : *drawn)
    kept.push_back(others[static_cast<std::size_t>(place)]);
  std::ranges::sort(kept);
  return data.taking(kept);
}

/// Refuses rows from several places.
void check_one_source(const Lesson& lesson) {
  std::vector<std::string> sources;
  if (!lesson.data.set.empty()) sources.push_back("the demo set " + lesson.data.set);
  if (!lesson.data.files.empty())
    sources.push_back(fmt::format("the file {}", fmt::join(lesson.data.files, ", ")));
  if (!lesson.data.points.empty()) sources.emplace_back("points that are typed in");
  if (sources.size() > 1) {
    throw SettingError({.what = "there are several sources of rows",
                        .expected = "one of them",
                        .found = fmt::format("{}", fmt::join(sources, " and "))});
  }
  if (lesson.data.set_seed) {
    throw SettingError({.what = "--set-seed needs a demo set",
                        .expected = "a demo set with it",
                        .found = sources.front()});
  }
}

/// Refuses files of parts where the other rows are not from files.
void check_files_of_parts(const Lesson& lesson) {
  if (!lesson.data.files.empty()) return;
  for (const DataPart part : {DataPart::validation, DataPart::test}) {
    if (lesson.data.files_of(part).empty()) continue;
    throw SettingError({.what = fmt::format("--{}-file needs --file", word(part)),
                        .expected = "a file with the rows for training",
                        .found = fmt::format("{} alone", lesson.data.files_of(part).front()),
                        .remedy = "--file my.csv"});
  }
}

/// Points as a table: columns x, or x1, x2 …, and y.
Table table_of(const std::vector<std::vector<std::string>>& points) {
  Table table{.name = "points", .header = {}, .rows = {}};
  for (const std::vector<std::string>& point : points)
    table.rows.push_back(point);
  const std::size_t features = points.front().size() - 1;
  for (std::size_t of = 1; of <= features; ++of)
    table.header.push_back(features == 1 ? "x" : fmt::format("x{}", of));
  table.header.emplace_back("y");
  for (const std::vector<std::string>& point : points) {
    if (point.size() == table.header.size()) continue;
    throw SettingError({.what = "the points have different lengths",
                        .expected = fmt::format("{} numbers, as in ({})", table.header.size(),
                                                fmt::join(points.front(), ", ")),
                        .found = fmt::format("{}: ({})", point.size(), fmt::join(point, ", "))});
  }
  return table;
}

/// The subject that reads the files of a lesson by itself; null for tables.
const LessonSubject* reader_of(const Lesson& lesson) {
  if (lesson.data.files.empty()) return nullptr;
  for (const LessonSubject& subject : lesson_subjects()) {
    if (subject.holds != nullptr && subject.holds(FileOfClass::in(lesson.data.files.front()).path))
      return &subject;
  }
  return nullptr;
}

void change(const Lesson& lesson, Dataset& data) {
  for (const LessonSubject& subject : lesson_subjects()) {
    if (subject.change != nullptr) subject.change(lesson, data);
  }
}

/// The last column that has no other job.
std::string last_column(const Table& table, const ColumnChoice& choice) {
  for (std::size_t at = table.header.size(); at-- > 0;) {
    const std::string& name = table.header[at];
    const bool has_job = name == choice.weights || name == choice.names || name == choice.known ||
                         std::ranges::find(choice.features, name) != choice.features.end();
    if (!has_job) return name;
  }
  return table.header.back();
}

TableReading read_table_rows(const Lesson& lesson, ColumnChoice columns) {
  if (!lesson.data.points.empty() && columns.targets.empty()) columns.targets = {"y"};
  Table table = lesson.data.files.empty() ? table_of(lesson.data.points)
                                          : read_tables_of(lesson.data.files, lesson.data.csv);
  for (const DataPart part : {DataPart::validation, DataPart::test}) {
    const std::vector<std::string>& files = lesson.data.files_of(part);
    if (!files.empty())
      table = with_part(std::move(table), part, read_tables_of(files, lesson.data.csv));
  }
  const bool names_none = columns.targets.empty();
  if (names_none) columns.targets = {last_column(table, columns)};
  const auto own = std::ranges::find_if(lesson_subjects(), [&](const LessonSubject& subject) {
    return subject.takes_table != nullptr && subject.takes_table(lesson);
  });
  const bool is_of_subject = own != lesson_subjects().end();
  TableReading reading =
      is_of_subject ? own->read_table(lesson, table, columns) : dataset_from(table, columns);
  if (!is_of_subject) change(lesson, reading.data);
  reading.last_as_target = names_none;
  return reading;
}

TableReading make_demo_set(const Lesson& lesson, const std::string& set) {
  check_no_columns(lesson, fmt::format("the demo set {}", set),
                   fmt::format("--file demo/data/{}.csv", set));
  if (!lesson.data.columns.class_names.empty()) {
    throw SettingError({.what = "a demo set has names for its classes",
                        .expected = "--classes with --file",
                        .found = fmt::format("the demo set {}", set)});
  }
  const DemoSet& made = demo_set_called(set);
  TableReading reading{.data = demo_set(set, lesson.data.rows.value_or(made.usual_rows),
                                        lesson.data.set_seed.value_or(made.usual_seed))};
  change(lesson, reading.data);
  return reading;
}

}  // namespace

void check_no_columns(const Lesson& lesson, const std::string& found, const std::string& remedy) {
  const ColumnChoice& columns = lesson.data.columns;
  const bool is_told = !columns.targets.empty() || !columns.features.empty() ||
                       !columns.weights.empty() || !columns.known.empty();
  if (!is_told) return;
  throw SettingError({.what = "--target, --features, --weights and --known need a file",
                      .expected = "--file my.csv with them",
                      .found = found,
                      .remedy = remedy});
}

Table read_tables_of(const std::vector<std::string>& files, const CsvSettings& csv) {
  for (const std::string& file : files) {
    const FileOfClass named = FileOfClass::in(file);
    if (named.class_name.empty()) continue;
    throw SettingError({.what = "a class for a file that is a table",
                        .where = file,
                        .expected = "a path; a class is for files of pictures",
                        .found = fmt::format("the class '{}'", named.class_name),
                        .remedy = "in a table, the column --target has the classes; a path with a "
                                  "= of its own begins with ./"});
  }
  return read_tables(files, csv);
}

TableReading read_data(const Lesson& lesson, std::int64_t outputs) {
  for (const LessonSubject& subject : lesson_subjects()) {
    if (subject.check != nullptr) subject.check(lesson);
  }
  check_files_of_parts(lesson);
  if (const auto set = lesson.data.demo_set()) return make_demo_set(lesson, *set);
  check_one_source(lesson);
  ColumnChoice columns = lesson.data.columns;
  columns.outputs = outputs;
  const LessonSubject* const subject = reader_of(lesson);
  std::int64_t drawn_from = 0;
  const DrawRows draw = drawing_for(lesson, drawn_from);
  TableReading reading;
  if (subject != nullptr) {
    reading = subject->read(lesson, draw);
  } else {
    reading = read_table_rows(lesson, columns);
    reading.data = with_rows_drawn(reading.data, draw);
  }
  reading.rows_drawn_from = drawn_from;
  return reading;
}

}  // namespace lattice
