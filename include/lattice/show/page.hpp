#pragma once

#include <filesystem>
#include <string>

#include "lattice/learning/worked_example.hpp"
#include "lattice/show/exercise.hpp"

namespace lattice {

/// What a page has besides the worked example.
struct PageSettings {
  Exercise exercise = {};  ///< on the first of the minibatches
  int digits = usual_digits;
};

/// A worked example as one HTML page that needs nothing but a browser: the worksheet line by line,
/// forward and back, every number with its arithmetic, the curves of the run where there is one.
/// @throws as `Exercise` numbers that cannot be left blank do.
[[nodiscard]] std::string page(const WorkedExample& example, const PageSettings& settings = {});

/// The same written to a file. @throws FileError when it cannot be written.
void write_page(const std::filesystem::path& path, const WorkedExample& example,
                const PageSettings& settings = {});

}  // namespace lattice
