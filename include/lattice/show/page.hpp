#pragma once

#include <filesystem>
#include <string>

#include "lattice/learning/worked_example.hpp"
#include "lattice/show/exercise.hpp"

namespace lattice {

/// The settings of a page.
struct PageSettings {
  Exercise exercise = {};    ///< on the first of the minibatches
  std::int64_t variant = 0;  ///< of an exercise, from 1; 0 for the only one
  int digits = usual_digits;
};

/// A worked example as one HTML page that needs only a browser: the worksheet line by line, forward
/// and back, every number with its arithmetic, and the curves of the run if there is one.
/// @throws as exercises do for numbers that cannot be blank.
[[nodiscard]] std::string page(const WorkedExample& example, const PageSettings& settings = {});

/// Writes it to a file. @throws FileError when that fails.
void write_page(const std::filesystem::path& path, const WorkedExample& example,
                const PageSettings& settings = {});

/// Writes the printed form of that page as PDF: with blanks a sheet to be filled in, and the
/// answers on a sheet of their own. A browser of this machine prints it, without a window or a
/// network.
/// @throws ProgramError where there is none, or it fails; else as `write_page` does.
void write_pdf(const std::filesystem::path& path, const WorkedExample& example,
               const PageSettings& settings = {});

}  // namespace lattice
