#include "lattice/lessons/lesson_subject.hpp"

namespace lattice {
namespace {

std::vector<LessonSubject>& all_subjects() {
  static std::vector<LessonSubject> subjects;
  return subjects;
}

}  // namespace

void know(const LessonSubject& subject) {
  for (const LessonSetting& setting : subject.settings)
    know(setting);
  all_subjects().push_back(subject);
}

const std::vector<LessonSubject>& lesson_subjects() {
  return all_subjects();
}

}  // namespace lattice
