#pragma once

#include <cstdint>
#include <string>
#include <vector>

#include "lattice/tensor/shape.hpp"

namespace lattice {

/// What the places along axes are called. A name is found by the role of the axis alone: an axis of
/// units has none, however many units there are.
struct AxisNames {
  std::vector<std::string> features = {};
  std::vector<std::string> targets = {};
  std::vector<std::string> classes = {};
  std::vector<std::string> nodes = {};

  /// The name of a place, from 0, on an axis of a role; empty where it has none.
  [[nodiscard]] const std::string& of(Role role, std::int64_t place) const;

  /// What a place is labelled with: `2 peak` where it has a name, else `2`.
  [[nodiscard]] std::string label(Role role, std::int64_t place) const;

  /// The same where the role is not told beside it: `2 peak`, else `feature 2`.
  [[nodiscard]] std::string label_with_role(Role role, std::int64_t place) const;

  /// What an index stands for: `example 0, class 2 shino`; empty where none of its axes has names.
  [[nodiscard]] std::string in_words(const Shape& shape, const Index& at) const;
};

}  // namespace lattice
