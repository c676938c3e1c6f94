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

  /// The name of a position, from 0, on an axis with a role; empty if it has none. What follows the
  /// features is the 1 that stands for the bias where a layer takes it as an input.
  [[nodiscard]] const std::string& of(Role role, std::int64_t place) const;

  /// The label of a position: `2 peak` if it has a name, else `2`.
  [[nodiscard]] std::string label(Role role, std::int64_t place) const;

  /// The same with the role if it has no name: `2 peak`, else `feature 2`.
  [[nodiscard]] std::string label_with_role(Role role, std::int64_t place) const;

  /// The names of an index: `example 0, class 2 shino`; empty if none of its axes has names.
  [[nodiscard]] std::string in_words(const Shape& shape, const Index& at) const;
};

}  // namespace lattice
