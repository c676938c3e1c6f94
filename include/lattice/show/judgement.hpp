#pragma once

#include <optional>
#include <span>
#include <string>
#include <utility>
#include <vector>

#include "lattice/judging/assess.hpp"
#include "lattice/judging/model.hpp"
#include "lattice/learning/worked_answers.hpp"
#include "lattice/show/terminal.hpp"

/// Assessments and answers as text.
namespace lattice {

/// Parts and the assessment on each.
using NamedAssessments = std::vector<std::pair<std::string, Assessment>>;

/// The figures of each part side by side, with those of guessing and of others, and the gap between
/// the first part and the last.
[[nodiscard]] std::string show_figures(const NamedAssessments& parts, const TerminalStyle& style,
                                       const std::vector<Reference>& references = {});

/// The confusion matrix of a part, and the figures of each class.
[[nodiscard]] std::string show_classes(const ClassJudgement& judgement, const TerminalStyle& style);

/// What is shown beside answers.
struct AnswersView {
  /// The truth of each record, a text for each target, empty where it is not known; or nothing.
  std::vector<std::string> truth = {};
  bool brief = false;  ///< of classes the answer alone, without the share of the others

  /// Each record in words, to be shown beside its answer; or nothing.
  std::vector<std::string> records = {};
};

/// How often each class was answered.
struct AnswersTally {
  /// The number of answers and the class, the most frequent first; without those of no answer.
  std::vector<std::pair<std::int64_t, std::size_t>> by_class = {};
  std::int64_t with_truth = 0;  ///< answers whose truth is known
  std::int64_t right = 0;       ///< of these
};

/// @param truth as in `AnswersView`
[[nodiscard]] AnswersTally tally_of(const Model& model, const Answers& answers,
                                    std::span<const std::string> truth = {});

/// The answer of a model to each record, with a tally for several; of a few without a truth, the
/// probability of each class as a bar.
[[nodiscard]] std::string show_answers(const Model& model, const Answers& answers,
                                       const TerminalStyle& style, const AnswersView& view = {});

/// The weights of a network; of a single dense layer, also in the units of the data.
/// @param law the law of the data, if known
[[nodiscard]] std::string show_learnt(const Model& model, const std::optional<LinearForm>& law,
                                      const TerminalStyle& style);

/// The sensitivity of the answer to one record to each feature.
/// @param swept the name of the differentiated line: `winning`, or `answer` for numeric targets
[[nodiscard]] std::string show_influences(const std::vector<Influence>& influences,
                                          const std::string& swept, const Model& model,
                                          const TerminalStyle& style);

/// As `show_figures` and, for classes, `show_classes`, without colours.
[[nodiscard]] std::string to_string(const Assessment& assessment);

/// The accuracy, and `show_classes`, without colours.
[[nodiscard]] std::string to_string(const ClassJudgement& judgement);

}  // namespace lattice

template <>
struct fmt::formatter<lattice::Assessment> : lattice::detail::Printed<lattice::Assessment> {};

template <>
struct fmt::formatter<lattice::ClassJudgement> : lattice::detail::Printed<lattice::ClassJudgement> {
};
