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

/// A special kind of rows, described by its subject. Members left out are as for plain rows.
struct RowKind {
  std::string_view name;         ///< of a dataset of them: `graph`
  std::string_view one = "row";  ///< the word for a row: `node`
  std::string_view several = "rows";

  /// The first layer of the default network for them; empty for none.
  std::string_view first_layer = {};

  /// Whether the rows of a dataset are of this kind.
  bool (*is_kind_of)(const Dataset& data) = nullptr;

  std::vector<std::string_view> remark_codes = {};  ///< of the following two

  /// Remarks on such rows before training.
  std::vector<Remark> (*remarks_on)(const Split& split) = nullptr;

  /// The remark on a network that does not use their connections.
  Remark (*connections_unused)(const std::string& blueprint) = nullptr;

  /// The plan of a network for all rows together, if they are always computed together.
  Plan (*plan_for_all)(const Plan& of_one, const Dataset& data) = nullptr;
};

/// Registers a kind.
void know(const RowKind& kind);

/// All registered kinds, in order.
[[nodiscard]] const std::list<RowKind>& row_kinds();

/// The kind of a dataset's rows: that of the first subject that recognises them; else plain rows.
[[nodiscard]] const RowKind& kind_of(const Dataset& data);

}  // namespace lattice
