#pragma once

#include <string>
#include <vector>

#include "tools/console.hpp"

namespace lattice::tools {

/// A file that a verb will write, and the option that names it.
struct Output {
  std::string option;
  std::string path;  ///< empty where nothing is asked for
};

/// Refuses, before the work begins, what could not be written in the end, two outputs in one place,
/// and an output over a file that is read. Takes away, and says so, what a run that was killed left
/// half written beside it.
/// @param inputs paths that are read; empty ones, and such as are no files, are let be
void check_outputs(const std::vector<Output>& outputs, const std::vector<std::string>& inputs,
                   const Console& console);

/// `glazes.html  211.4 KB`, for a file that was written; the path alone where it is no file.
[[nodiscard]] std::string written(const std::string& path);

}  // namespace lattice::tools
