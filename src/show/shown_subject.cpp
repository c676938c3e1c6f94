#include "lattice/show/shown_subject.hpp"

#include <algorithm>
#include <nlohmann/json.hpp>

#include "lattice/data/row_kind.hpp"

namespace lattice {
namespace {

std::vector<ShownSubject>& all_subjects() {
  static std::vector<ShownSubject> subjects;
  return subjects;
}

}  // namespace

Json WatchedSubject::lesson() const {
  return {};
}

void know(const ShownSubject& subject) {
  all_subjects().push_back(subject);
}

const std::vector<ShownSubject>& shown_subjects() {
  return all_subjects();
}

const ShownSubject* shown_subject_of(const Dataset& data) {
  const auto found = std::ranges::find(all_subjects(), kind_of(data).name, &ShownSubject::name);
  return found == all_subjects().end() ? nullptr : &*found;
}

}  // namespace lattice
