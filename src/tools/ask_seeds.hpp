#pragma once

#include <cstdint>
#include <string>
#include <vector>

#include "lattice/files/json.hpp"
#include "lattice/judging/model.hpp"
#include "lattice/lessons/model_file.hpp"
#include "lattice/show/shown_subject.hpp"
#include "lattice/show/terminal.hpp"
#include "tools/console.hpp"

namespace lattice::tools {

/// The answers of models that differ in their seed alone.
struct AnswersOverSeeds {
  std::vector<std::uint64_t> seeds = {};
  std::vector<Answers> answers = {};  ///< one for each seed
};

/// Trains the lesson of a model with further seeds, and asks each model the same.
/// @param answers of the model itself, which is the first one
[[nodiscard]] AnswersOverSeeds answers_over_seeds(const ModelFile& file, const Questions& questions,
                                                  const Answers& answers, std::int64_t count,
                                                  Console& console);

/// The mean and the standard deviation of each answer, and how many of the models gave it.
[[nodiscard]] std::string told(const AnswersOverSeeds& over, const Model& model,
                               const Answers& answers, const TerminalStyle& style);
[[nodiscard]] Json to_json(const AnswersOverSeeds& over, const Model& model);

}  // namespace lattice::tools
