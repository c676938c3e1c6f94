#include "lattice/network/subject.hpp"

#include <set>
#include <string>

namespace lattice {

bool use(const Subject& subject) {
  static std::set<std::string, std::less<>> in_use;
  if (!in_use.emplace(subject.name).second) return true;
  if (subject.rows) know(*subject.rows);
  for (const LayerWord& each : subject.layers)
    know(each);
  if (subject.projection != nullptr) know(subject.projection);
  for (const ScalingWord& each : subject.scalings)
    know(each);
  for (const DemoSet& each : subject.demo_sets)
    know(each);
  add_sheet_functions(subject.functions);
  return true;
}

}  // namespace lattice
