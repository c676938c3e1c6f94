#include "show/spreadsheet_library.hpp"

#include "files/library_files.hpp"
#include "files/loaded_library.hpp"

namespace lattice {
namespace {

SpreadsheetLibrary loaded() {
  const LoadedLibrary library(spreadsheet_library_file, "a spreadsheet");
  SpreadsheetLibrary functions;
#define LATTICE_FIND(name) library.find(#name, functions.name);
  LATTICE_SPREADSHEET_FUNCTIONS(LATTICE_FIND)
#undef LATTICE_FIND
  return functions;
}

}  // namespace

const SpreadsheetLibrary& xlsx() {
  static const SpreadsheetLibrary functions = loaded();
  return functions;
}

}  // namespace lattice
