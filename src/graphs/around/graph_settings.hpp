#pragma once

#include <string>

#include "lattice/lessons/lesson_subject.hpp"

namespace lattice {

/// The settings of a lesson that are about graphs.
struct GraphSettings {
  std::string edges = {};  ///< the file of the edges, whose nodes the rows of the table are
  bool directed = false;   ///< an edge leads one way
  std::string names = {};  ///< the column that names the nodes; the first, or `numbers` for none
};

/// What graphs bring along to lessons and model files.
[[nodiscard]] LessonSubject graphs_in_lessons();

}  // namespace lattice
