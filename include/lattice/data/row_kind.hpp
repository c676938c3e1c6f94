#pragma once

#include <list>
#include <string>
#include <string_view>
#include <vector>

#include "lattice/text/remark.hpp"

namespace lattice {

struct Dataset;
struct Plan;
struct Split;

/// What makes the rows of some datasets special, as the subject that they belong to describes it.
/// Whatever it leaves out is as for plain rows.
struct RowKind {
  std::string_view name;         ///< what a dataset of them is called: `graph`
  std::string_view one = "row";  ///< what a row is called: `node`
  std::string_view several = "rows";

  /// The layer that a network for them begins with where no blueprint is given; empty for none.
  std::string_view first_layer = {};

  /// Whether the rows of a dataset are of this kind.
  bool (*is_kind_of)(const Dataset& data) = nullptr;

  std::vector<std::string_view> remark_codes = {};  ///< of the two that follow

  /// What to remark on such rows, as they go into training.
  std::vector<Remark> (*remarks_on)(const Split& split) = nullptr;

  /// What to remark where a network does not use the connections between them.
  Remark (*connections_unused)(const std::string& blueprint) = nullptr;

  /// The plan of a network for all rows together, where they always pass through together.
  Plan (*plan_for_all)(const Plan& of_one, const Dataset& data) = nullptr;
};

/// Makes a kind known.
void know(const RowKind& kind);

/// Every kind that is known, in the order in which they came.
[[nodiscard]] const std::list<RowKind>& row_kinds();

/// The kind of a dataset's rows: that of the first subject that recognises them; else plain rows.
[[nodiscard]] const RowKind& kind_of(const Dataset& data);

}  // namespace lattice
