#pragma once

#include <cstdint>
#include <string_view>

#include "lattice/judging/loss.hpp"
#include "lattice/worksheet/worksheet.hpp"

namespace lattice {

/// The class named by each row of outputs [example]: the highest; for a single one, the side of 0
/// for a score and of 0.5 for what is aimed at 0 or 1. Passes no gradient on.
template <Operand X>
[[nodiscard]] X answers_of(const X& outputs, Outputs kind = Outputs::scores);

/// The probability of each class [example × class]: of scores by softmax, or for a single one by
/// sigmoid. Levels come as they are, and are no probabilities.
[[nodiscard]] Tensor probabilities_of(const Tensor& outputs, Outputs kind = Outputs::scores);

/// The section of a worksheet in which the answers stand.
inline constexpr std::string_view answers_section = "answers";

/// Writes down, in a section of its own, the class that is named for each row: `answer` [example].
/// Nothing is learnt from this line or the next ones.
/// @param outputs as `write_scores` gives them
Line write_answers(Worksheet& sheet, const Line& outputs, Outputs kind);

/// Writes down which answers are right: `right`, 1 or 0 for each row [example].
Line write_right(const Line& answers, const GivenLines& given);

/// Writes down their mean, of each row as much as it counts: `accuracy`.
Line write_accuracy(const Line& right, const GivenLines& given);

/// Writes down how many rows of each true class were given each answer, as much as they count:
/// `confusion` [class × class], a matrix product of ones and zeros.
/// @throws as `one_hot` does for a class from `classes` on.
Line write_confusion(const Line& answers, const GivenLines& given, std::int64_t classes);

/// How many classes outputs [example × …] tell apart.
[[nodiscard]] std::int64_t classes_of(const Line& outputs);

}  // namespace lattice
