#pragma once

#include <vector>

#include "lattice/worksheet/sheet_functions.hpp"

namespace lattice {

/// The operations on pictures as functions of a sheet.
[[nodiscard]] std::vector<SheetFunction> picture_functions();

}  // namespace lattice
