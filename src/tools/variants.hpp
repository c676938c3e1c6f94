#pragma once

#include <cstdint>
#include <string>
#include <vector>

#include "lattice/lessons/lesson.hpp"
#include "lattice/show/exercise.hpp"
#include "tools/console.hpp"

namespace lattice::tools {

/// The variants of an exercise for a class.
struct Variants {
  std::int64_t count = 0;
  std::string html = {};  ///< `exercise.html` becomes exercise-01.html and so on
  std::vector<std::int64_t> steps = {};
  Exercise exercise = {};  ///< of the first; the others are like it
  int digits = usual_digits;

  /// The pages, and last the answer key, `exercise-key.json`.
  [[nodiscard]] std::vector<std::string> paths() const;
};

/// Writes them: the same lesson with other rows and other start weights, as many blanks in the same
/// tables, and one key to all of them.
/// @throws SettingError when there are not so many different ones.
void write_variants(const Variants& variants, const Lesson& lesson, const Console& console);

}  // namespace lattice::tools
