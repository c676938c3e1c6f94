#include "lattice/data/row_kind.hpp"

#include <algorithm>

#include "lattice/data/dataset.hpp"

namespace lattice {
namespace {

std::list<RowKind>& known_kinds() {
  static std::list<RowKind> all;
  return all;
}

}  // namespace

void know(const RowKind& kind) {
  known_kinds().push_back(kind);
}

const std::list<RowKind>& row_kinds() {
  return known_kinds();
}

const RowKind& kind_of(const Dataset& data) {
  static const RowKind plain = {.name = "table"};
  const auto found = std::ranges::find_if(
      known_kinds(), [&](const RowKind& kind) { return kind.is_kind_of(data); });
  return found == known_kinds().end() ? plain : *found;
}

}  // namespace lattice
