#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "lattice/learning/worked_example.hpp"
#include "lattice/worksheet/sheet_text.hpp"
#include "tools/options.hpp"

namespace lattice::tools {

/// The sheet that a verb works: a file, or lines on the command line.
class SheetOptions {
 public:
  /// Declares `--given`, `--weight` and `--line` under their own heading.
  void declare(Verb& verb);

  /// Whether a verb got a sheet instead of a lesson. @throws SettingError for lines beside the name
  /// of a lesson, or for settings that have no meaning for a sheet.
  [[nodiscard]] bool names_sheet(const LessonOptions& options) const;

  /// The sheet, worked; with an update rule among the options, step by step.
  /// @param steps which updates, from 1; none for a single calculation
  /// @param further so many after them
  /// @throws as `read_sheet` and `work_sheet` do.
  [[nodiscard]] WorkedExample work(const LessonOptions& options,
                                   const std::vector<std::int64_t>& steps, const Console& console,
                                   std::int64_t further = 0) const;

 private:
  [[nodiscard]] std::string text(const LessonOptions& options) const;

  std::vector<std::string> given_ = {};
  std::vector<std::string> weights_ = {};
  std::vector<std::string> lines_ = {};
};

/// The title of a sheet, its file and its rule, for the top of the output.
[[nodiscard]] std::vector<std::string> in_words(const WorkedExample& sheet);

/// The version and the title of a sheet, which are part of its JSON.
[[nodiscard]] Json sheet_settings_json(const WorkedExample& example);

}  // namespace lattice::tools
