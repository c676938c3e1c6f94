#pragma once

#include <cstdint>
#include <string>

#include "lattice/lessons/lesson.hpp"

namespace lattice::tools {

/// What the words after a verb can name.
enum class Named : std::uint8_t { nothing, lesson_file, model_file, demo_set };

/// What a word names: a file by its ending or content; a demo set by its name, which also stands
/// for anything that is not there, so that whoever makes the set can list those that are.
[[nodiscard]] Named what_is_named(const std::string& word);

/// The same question, asked for a single answer.
[[nodiscard]] bool is_model_file(const std::string& word);

/// The lesson of a file, or one on a demo set; the default lesson if nothing is named.
[[nodiscard]] Lesson lesson_named(const std::string& word);

}  // namespace lattice::tools
