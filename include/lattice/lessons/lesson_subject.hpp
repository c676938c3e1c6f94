#pragma once

#include <cstdint>
#include <filesystem>
#include <optional>
#include <string_view>
#include <vector>

#include "lattice/data/table.hpp"
#include "lattice/lessons/lesson.hpp"

namespace lattice {

namespace model_files {
class Reader;
}

/// What a kind of data, such as pictures or graphs, brings along to lessons and model files. What
/// it leaves out is as for plain tables.
struct LessonSubject {
  std::string_view name;                     ///< `pictures`
  std::vector<LessonSetting> settings = {};  ///< each joins its section

  /// Refuses settings of this subject that do not fit the others of a lesson.
  void (*check)(const Lesson& lesson) = nullptr;

  /// Whether a file holds such data and no table, and how the files of a lesson are read then.
  bool (*holds)(const std::filesystem::path& file) = nullptr;
  TableReading (*read)(const Lesson& lesson) = nullptr;

  /// Whether a lesson takes the rows of a table for such data, and how they become a dataset then.
  bool (*takes_table)(const Lesson& lesson) = nullptr;
  TableReading (*read_table)(const Lesson& lesson, const Table& table,
                             const ColumnChoice& columns) = nullptr;

  /// What is done to examples of this subject that were made or read in another way.
  void (*change)(const Lesson& lesson, Dataset& data) = nullptr;

  /// The shape of an example, where a lesson without data tells it.
  std::optional<Shape> (*example)(const Lesson& lesson) = nullptr;

  /// Where a model is asked about its rows (`Model::rows`), the member of a model file that they
  /// stand in, and how they are written and read.
  std::string_view model_key = {};
  Json (*rows_to_json)(const Dataset& rows) = nullptr;
  Dataset (*rows_from_json)(const model_files::Reader& reader, std::int64_t features,
                            Precision precision) = nullptr;
};

/// Makes what a subject brings along known to lessons and model files.
void know(const LessonSubject& subject);

/// Every subject that is known to lessons.
[[nodiscard]] const std::vector<LessonSubject>& lesson_subjects();

}  // namespace lattice
