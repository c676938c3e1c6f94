#include "show/spreadsheet_library.hpp"

namespace lattice {

const SpreadsheetLibrary& xlsx() {
  static const SpreadsheetLibrary functions;
  return functions;
}

}  // namespace lattice
