#pragma once

#include <string>
#include <vector>

#include "lattice/lessons/lesson_subject.hpp"
#include "lattice/pictures/around/reading.hpp"
#include "lattice/pictures/picture.hpp"

namespace lattice {

/// The settings of a lesson that are about pictures.
struct PictureSettings {
  std::vector<std::string> labels = {};  ///< the classes of each file of pictures, in order
  std::vector<std::string> validation_labels = {};  ///< likewise, of the validation part
  std::vector<std::string> test_labels = {};        ///< of the test part
  std::string shape = {};                           ///< of pictures in a table: `12x12x1`
  PictureChanges changes = {};

  /// The labels of the files of a part.
  [[nodiscard]] const std::vector<std::string>& labels_of(DataPart part) const {
    return part == DataPart::test         ? test_labels
           : part == DataPart::validation ? validation_labels
                                          : labels;
  }
};

/// Files as places of pictures: labels are for the files that need them, in order.
/// @throws SettingError for a table among them, and for labels that are left over.
[[nodiscard]] std::vector<PicturePlace> picture_places(const std::vector<std::string>& files,
                                                       const std::vector<std::string>& labels);

/// What pictures bring along to lessons.
[[nodiscard]] LessonSubject pictures_in_lessons();

}  // namespace lattice
