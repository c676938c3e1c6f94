#pragma once

#include <cstdint>
#include <filesystem>
#include <functional>
#include <optional>
#include <string_view>
#include <vector>

#include "lattice/data/table.hpp"
#include "lattice/lessons/lesson.hpp"

namespace lattice {

namespace model_files {
class Reader;
}

/// Which of so many rows of a lesson are kept, by their numbers in order; nothing for all.
using DrawRows = std::function<std::optional<std::vector<std::int64_t>>(std::int64_t count)>;

/// The additions of a kind of data, such as pictures or graphs, to lessons and model files. Members
/// left out are as for plain tables.
struct LessonSubject {
  std::string_view name;                     ///< `pictures`
  std::vector<LessonSetting> settings = {};  ///< added to their sections

  /// Checks the settings of this subject against the others of a lesson.
  void (*check)(const Lesson& lesson) = nullptr;

  /// Whether a file contains such data instead of a table, and a reader for the files of a lesson
  /// and of its parts. Rows of the lesson's files that are not drawn need not be read.
  bool (*holds)(const std::filesystem::path& file) = nullptr;
  TableReading (*read)(const Lesson& lesson, const DrawRows& draw) = nullptr;

  /// Whether a lesson treats the rows of a table as such data, and the conversion to a dataset.
  bool (*takes_table)(const Lesson& lesson) = nullptr;
  TableReading (*read_table)(const Lesson& lesson, const Table& table,
                             const ColumnChoice& columns) = nullptr;

  /// The treatment of examples of this subject that were made or read in another way.
  void (*change)(const Lesson& lesson, Dataset& data) = nullptr;

  /// The shape of an example, if a lesson without data states it.
  std::optional<Shape> (*example)(const Lesson& lesson) = nullptr;

  /// For models that are asked about their rows (`Model::rows`): the member of a model file for
  /// them, a writer and a reader.
  std::string_view model_key = {};
  Json (*rows_to_json)(const Dataset& rows) = nullptr;
  Dataset (*rows_from_json)(const model_files::Reader& reader, std::int64_t features,
                            Precision precision) = nullptr;
};

/// Registers a subject for lessons and model files.
void know(const LessonSubject& subject);

/// All registered subjects.
[[nodiscard]] const std::vector<LessonSubject>& lesson_subjects();

}  // namespace lattice
