#pragma once

#include <cstdint>
#include <map>
#include <string>
#include <vector>

#include "lattice/lessons/model_file.hpp"
#include "lattice/show/shown_subject.hpp"
#include "tools/console.hpp"

namespace lattice::tools {

/// What a model is asked about, as it was typed.
struct QuestionsAsked {
  std::string model;
  std::vector<std::string> records = {};
  std::map<const QuestionKind*, std::vector<std::string>> others = {};  ///< of subjects
  std::string file = {};
  std::vector<std::int64_t> rows = {};  ///< of its data, by number

  /// The questions of subjects that were asked.
  [[nodiscard]] std::vector<const QuestionKind*> kinds() const;

  /// The files that are read.
  [[nodiscard]] std::vector<std::string> inputs() const;
};

/// Reads what a model is asked about. @throws SettingError unless it is exactly one kind of
/// question that fits the model; as reading does.
[[nodiscard]] Questions questions_in(const QuestionsAsked& asked, const ModelFile& file,
                                     Console& console);

}  // namespace lattice::tools
