#pragma once

#include <optional>
#include <string>
#include <utility>
#include <vector>

#include "lattice/judging/assess.hpp"
#include "lattice/judging/model.hpp"
#include "lattice/learning/worked_answers.hpp"
#include "lattice/show/terminal.hpp"

/// Text for how good a network is, and for what it answers.
namespace lattice {

/// Parts and how good a network is on each.
using NamedAssessments = std::vector<std::pair<std::string, Assessment>>;

/// The figures of each part side by side, those of guessing and what others reached beside them,
/// and the gap between the first part and the last.
[[nodiscard]] std::string show_figures(const NamedAssessments& parts, const TerminalStyle& style,
                                       const std::vector<Reference>& references = {});

/// The confusion matrix of a part, and the figures of each class.
[[nodiscard]] std::string show_classes(const ClassJudgement& judgement, const TerminalStyle& style);

/// What a model says about each record: of a few, the probability of each class as a bar.
[[nodiscard]] std::string show_answers(const Model& model, const Answers& answers,
                                       const TerminalStyle& style);

/// What a network has learnt: its weights, and where it is one dense layer, what they come to in
/// the units that were measured.
/// @param law what the data follow, where that is known
[[nodiscard]] std::string show_learnt(const Model& model, const std::optional<LinearForm>& law,
                                      const TerminalStyle& style);

/// What the answer to one record hangs on, feature by feature.
/// @param swept the name of the line that slopes are of: `winning`, or `answer` where numbers are
///        predicted
[[nodiscard]] std::string show_influences(const std::vector<Influence>& influences,
                                          const std::string& swept, const Model& model,
                                          const TerminalStyle& style);

/// As `show_figures` and, where there are classes, `show_classes` write it, without colours.
[[nodiscard]] std::string to_string(const Assessment& assessment);

}  // namespace lattice

template <>
struct fmt::formatter<lattice::Assessment> : lattice::detail::Printed<lattice::Assessment> {};
