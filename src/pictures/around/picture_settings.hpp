#pragma once

#include <string>
#include <vector>

#include "lattice/lessons/lesson_subject.hpp"
#include "lattice/pictures/picture.hpp"

namespace lattice {

/// The settings of a lesson that are about pictures.
struct PictureSettings {
  std::string labels = {};                    ///< the file of the classes of a file of pictures
  std::vector<std::string> class_names = {};  ///< where labels are numbers
  std::string shape = {};                     ///< of pictures in a table: `12x12x1`
  PictureChanges changes = {};
};

/// What pictures bring along to lessons.
[[nodiscard]] LessonSubject pictures_in_lessons();

}  // namespace lattice
