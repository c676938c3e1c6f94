#pragma once

#include <string>
#include <vector>

#include "tools/console.hpp"

namespace lattice::tools {

/// An output file of a verb, and its option.
struct Output {
  std::string option;
  std::string path;  ///< empty if the option was not given
};

/// Before the work begins, refuses outputs that cannot be written, two outputs with one path, and
/// an output that would overwrite an input. Removes half-written files of a killed run next to
/// them, and says so.
/// @param inputs paths that are read; those that are empty or not files are ignored
void check_outputs(const std::vector<Output>& outputs, const std::vector<std::string>& inputs,
                   const Console& console);

/// `glazes.html  211.4 KB` for a file that was written; only the path if it is not a file.
[[nodiscard]] std::string written(const std::string& path);

}  // namespace lattice::tools
