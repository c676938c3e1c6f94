#pragma once

#include <cstdint>
#include <string>

#include "lattice/lessons/lesson.hpp"

namespace lattice::tools {

/// What the word after a verb can name.
enum class Named : std::uint8_t { nothing, lesson_file, sheet_file, model_file, demo_set };

/// What a word names: a file by its extension or content, else a demo set. Unknown names are demo
/// sets, too; making one then lists those that exist.
[[nodiscard]] Named what_is_named(const std::string& word);

/// Whether a word names a model file.
[[nodiscard]] bool is_model_file(const std::string& word);

/// The lesson of a file, or of a demo set; the default lesson if nothing is named.
/// @throws SettingError for a model; as reading does.
[[nodiscard]] Lesson lesson_named(const std::string& word);

}  // namespace lattice::tools
