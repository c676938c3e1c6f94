#pragma once

#include <optional>
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

/// The answer of a model to each record; of a few, the probability of each class as a bar.
[[nodiscard]] std::string show_answers(const Model& model, const Answers& answers,
                                       const TerminalStyle& style);

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

}  // namespace lattice

template <>
struct fmt::formatter<lattice::Assessment> : lattice::detail::Printed<lattice::Assessment> {};
