#pragma once

#include <span>
#include <string_view>

namespace lattice {

/// A function that formulas have by name.
struct FormulaFunction {
  std::string_view name;
  double (*value)(std::span<const double> arguments);
};

/// All of them.
[[nodiscard]] std::span<const FormulaFunction> formula_functions();

/// The one of a name; null for functions of one's own, which nobody else knows.
[[nodiscard]] const FormulaFunction* formula_function(std::string_view name);

}  // namespace lattice
