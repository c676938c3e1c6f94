#pragma once

#include <span>
#include <string_view>

namespace lattice {

/// What a function of formulas is called in other languages.
struct FunctionName {
  std::string_view name;             ///< in formulas
  std::string_view in_spreadsheets;  ///< OpenFormula; empty where there is none
  std::string_view in_scripts;       ///< of `Math` in ECMAScript; empty where there is none
};

/// One for every function that formulas know.
[[nodiscard]] std::span<const FunctionName> function_names();

}  // namespace lattice
