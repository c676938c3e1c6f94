#pragma once

#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "lattice/worksheet/formula.hpp"

namespace lattice {

/// What a formula is at its top.
struct Formula::Node {
  Kind kind = Kind::number;
  double number = 0.0;
  Cell cell = {};
  std::vector<Formula> parts = {};
  Function function = nullptr;
  std::string function_name = {};
  std::optional<Condition> condition = std::nullopt;
  std::shared_ptr<const Formula> which = nullptr;  ///< of a pick
  double in_double = 0.0;  ///< what a shorthand gives: many parts may share it, and ask
  double in_single = 0.0;
  bool is_once = false;  ///< worked in double and rounded once
};

}  // namespace lattice
