#pragma once

#include <cstddef>
#include <set>

#include "lattice/files/json.hpp"
#include "lattice/learning/worked_example.hpp"
#include "show/formula_patterns.hpp"
#include "show/work_tables.hpp"

namespace lattice {

/// What the page writes once for all worked sheets that differ in nothing but their numbers: which
/// tables there are, how each number in them is made, and the walk through them.
class PageStructure {
 public:
  /// @param step has to outlive this, as the dictionaries have
  PageStructure(const WorkedStep& step, const AxisNames& names, Dictionary& skeletons,
                Dictionary& patterns);

  [[nodiscard]] const WorkTables& tables() const { return tables_; }

  /// Whether all but the numbers is the same on another sheet.
  [[nodiscard]] bool is_that_of(const WorkedSheet& other) const;

  [[nodiscard]] Json json();

 private:
  [[nodiscard]] bool has_same_formulas(const Line& line, const Line& other) const;

  const WorkedSheet& work_;
  const AxisNames& names_;
  WorkTables tables_;
  std::set<std::size_t> fixed_;
  Dictionary& skeletons_;
  Dictionary& patterns_;
};

}  // namespace lattice
