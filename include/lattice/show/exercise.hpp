#pragma once

#include <cstdint>
#include <string>
#include <vector>

namespace lattice {

/// Numbers of a worked minibatch that are left blank, for students to fill in.
struct Exercise {
  std::int64_t blanks = 0;  ///< how many are chosen at random, spread over the worksheet

  /// Numbers that are left blank in any case: `hidden[0,2]`, `∂hidden.weight[1,0]`,
  /// `new output.bias[0]`.
  std::vector<std::string> named = {};

  std::uint64_t seed = 1;  ///< another seed is another choice

  /// How far an answer may be off, as a share of the number; for numbers near 0, of a thousandth of
  /// the largest in the table; for a new weight, of what the update changed. Above 0.
  double tolerance = 0.005;

  [[nodiscard]] bool is_asked_for() const { return blanks > 0 || !named.empty(); }
};

}  // namespace lattice
