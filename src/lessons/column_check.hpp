#pragma once

#include <string>

#include "lattice/lessons/lesson.hpp"

namespace lattice {

/// Refuses settings that choose columns where there are none.
/// @param found what the lesson reads instead
void check_no_columns(const Lesson& lesson, const std::string& found, const std::string& remedy);

}  // namespace lattice
