#pragma once

#include <cstdint>
#include <string_view>

#include "lattice/judging/loss.hpp"
#include "lattice/worksheet/worksheet.hpp"

namespace lattice {

/// The answered class of each row of outputs [example]: that of the highest output; for a single
/// output, by its sign for a score, and by comparison with 0.5 otherwise. Passes no gradient on.
template <Operand X>
[[nodiscard]] X answers_of(const X& outputs, Outputs kind = Outputs::scores);

/// The probability of each class [example × class]: from scores by softmax, or from a single one by
/// sigmoid. Levels are returned unchanged; they are not probabilities.
[[nodiscard]] Tensor probabilities_of(const Tensor& outputs, Outputs kind = Outputs::scores);

/// The section of a worksheet for the answers.
inline constexpr std::string_view answers_section = "answers";

/// Adds, in a section of its own, the answered class of each row: `answer` [example]. This line and
/// the next ones are not used in training.
/// @param outputs as `write_scores` returns them
Line write_answers(Worksheet& sheet, const Line& outputs, Outputs kind);

/// Adds which answers are right: `right`, 1 or 0 for each row [example].
Line write_right(const Line& answers, const GivenLines& given);

/// Adds their mean, by row weights: `accuracy`.
Line write_accuracy(const Line& right, const GivenLines& given);

/// Adds the confusion matrix, by row weights: `confusion` [class × class], a matrix product of ones
/// and zeros.
/// @throws as `one_hot` does for a class from `classes` on.
Line write_confusion(const Line& answers, const GivenLines& given, std::int64_t classes);

/// The number of classes of outputs [example × …].
[[nodiscard]] std::int64_t classes_of(const Line& outputs);

}  // namespace lattice
