#pragma once

#include <istream>
#include <string>

#include "lattice/learning/worked_example.hpp"
#include "lattice/show/exercise.hpp"
#include "tools/console.hpp"

namespace lattice::tools {

/// An exercise that is worked at the prompt.
struct PromptExercise {
  Exercise exercise = {};
  std::int64_t variant = 0;  ///< its number in a class; 0 for one that is none
  std::string answers = {};  ///< the file where answers are kept; nowhere if empty
};

/// Asks for the blanks of the first minibatch, one after another, and judges what is typed. The
/// number of a blank is told only when it is right, or asked for. Goes on with answers that are
/// kept already.
/// @throws as `choose_blanks` does; FileError where the file holds something else.
void work_exercise(const WorkedExample& example, const PromptExercise& asked, std::istream& in,
                   Console& console);

}  // namespace lattice::tools
