#pragma once

#include <cstdint>
#include <optional>
#include <string>

#include "lattice/files/model_file.hpp"
#include "lattice/show/judgement.hpp"
#include "tools/options.hpp"

namespace lattice::tools {

/// How much is said on stderr while a network learns.
enum class Say : std::uint8_t { nothing, some, much };

/// Says on stderr how far a run has come: one line that changes on a terminal, about twenty lines
/// elsewhere, every epoch when much is to be said.
class Progress {
 public:
  Progress(Console& console, std::int64_t first, std::int64_t last, Say how_much)
      : console_(&console), first_(first), last_(last), how_much_(how_much) {}

  void operator()(const EpochFigures& figures) const;
  void operator()(const StepFigures& figures) const;

 private:
  void write(const std::string& text, bool stays) const;

  Console* console_;
  std::int64_t first_;
  std::int64_t last_;
  Say how_much_;
};

/// Judges a network on every part that has rows.
[[nodiscard]] NamedAssessments assess_parts(const Network& network, Loss loss, const Parts& parts,
                                            std::int64_t top = 2);

/// Assessments by part, as JSON.
[[nodiscard]] Json to_json(const NamedAssessments& parts);

/// A trained lesson as a file to be saved.
[[nodiscard]] ModelFile model_file_of(const Lesson& lesson, const Prepared& prepared,
                                      const Network& network, const RunRecord& run);

}  // namespace lattice::tools
