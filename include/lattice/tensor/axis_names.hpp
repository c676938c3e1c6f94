#pragma once

#include <cstdint>
#include <string>
#include <vector>

#include "lattice/tensor/shape.hpp"

namespace lattice {

/// The names of positions along axes. A name depends only on the role of the axis: an axis of units
/// has none, even if its length happens to fit.
struct AxisNames {
  std::vector<std::string> features = {};
  std::vector<std::string> targets = {};
  std::vector<std::string> classes = {};
  std::vector<std::string> nodes = {};

  /// The name of a position, from 0, on an axis with a role; empty if it has none.
  [[nodiscard]] const std::string& of(Role role, std::int64_t place) const;

  /// The same on an axis of a shape. Where a layer takes its bias as an input, the position of the
  /// 1 for it, behind the features or the units, is called `bias`.
  [[nodiscard]] const std::string& of(const Shape& shape, int axis, std::int64_t place) const;

  /// The label of a position: `2 peak` if it has a name, else `2`.
  [[nodiscard]] std::string label(Role role, std::int64_t place) const;
  [[nodiscard]] std::string label(const Shape& shape, int axis, std::int64_t place) const;

  /// The same with the role if it has no name: `2 peak`, else `feature 2`.
  [[nodiscard]] std::string label_with_role(const Shape& shape, int axis, std::int64_t place) const;

  /// The names of an index: `example 0, class 2 shino`; empty if none of its axes has names.
  [[nodiscard]] std::string in_words(const Shape& shape, const Index& at) const;
};

}  // namespace lattice
