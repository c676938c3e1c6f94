#pragma once

#include <cstdint>
#include <map>
#include <optional>
#include <string>
#include <vector>

#include "lattice/learning/worked_answers.hpp"
#include "lattice/learning/worked_example.hpp"
#include "lattice/lessons/model_file.hpp"
#include "lattice/show/shown_subject.hpp"
#include "tools/options.hpp"

namespace lattice::tools {

/// The answers of a model as a worked example.
struct AskedAnswers {
  ModelFile file;
  WorkedExample example;  ///< of one sheet
  std::vector<Influence> influences =
      {};  ///< what the answer depends on, for one record of a table
};

/// Declares `--row`, for rows of the data of a model.
void declare_rows(Verb& verb, std::vector<std::int64_t>& rows);

/// The questions to a trained network in `work` and `why`: records, rows of the data, or rows with
/// wrong answers.
class AnswerOptions {
 public:
  /// Declares `--record`, `--row`, `--wrong`, `--part`, `--of` and the questions of subjects under
  /// their own heading.
  void declare(Verb& verb);

  /// Whether a verb got a model instead of a lesson. @throws SettingError for a question without a
  /// model, a model without a question, or a model with settings of a run.
  [[nodiscard]] bool names_model(const LessonOptions& options) const;

  /// The answers of the model that the options name, about rows of the files that they name, or of
  /// its own data. @throws as loading and reading do; SettingError for a missing row.
  [[nodiscard]] AskedAnswers work(const LessonOptions& options, Console& console) const;

 private:
  /// The question of a subject that was asked; null if none was.
  [[nodiscard]] const QuestionKind* asked_kind() const;

  [[nodiscard]] bool is_asked() const {
    return !records_.empty() || !rows_.empty() || asked_kind() != nullptr || wrong_;
  }
  [[nodiscard]] Batch batch(const ModelFile& file, const FileRows& rows, std::string& about,
                            Console& console) const;
  [[nodiscard]] std::optional<std::int64_t> of(const Model& model) const;

  std::vector<std::string> records_ = {};
  std::vector<std::int64_t> rows_ = {};
  std::map<const QuestionKind*, std::vector<std::string>> others_ = {};  ///< of subjects
  std::optional<std::int64_t> wrong_ = std::nullopt;
  std::string part_ = {};
  std::string of_ = {};
};

/// The rows of a part with wrong answers and the highest loss, highest first; for numeric targets
/// those with the largest error.
/// @param name of them, for the message: `the test part`. @throws SettingError if all answers are
/// right.
[[nodiscard]] std::vector<std::int64_t> worst_rows(const Model& model, const RowSet& part,
                                                   const std::string& name, std::int64_t most);

/// How an answer depends on each feature, as JSON.
[[nodiscard]] Json influences_json(const AskedAnswers& answers);

}  // namespace lattice::tools
