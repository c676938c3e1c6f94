#pragma once

#include <algorithm>
#include <set>
#include <string>
#include <vector>

#include "lattice/text/error.hpp"

namespace lattice {

/// Refuses names of classes that do not tell them apart. @throws SettingError.
inline void check_class_names(const std::vector<std::string>& names) {
  const std::set<std::string> different(names.begin(), names.end());
  if (different.size() == names.size() && !different.contains("")) return;
  throw SettingError({.what = "the names of the classes do not tell them apart",
                      .expected = "a name of its own for each class: bowl,jug,vase",
                      .found = different.contains("") ? "one without a letter" : "one twice"});
}

}  // namespace lattice
