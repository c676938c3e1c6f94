#pragma once

#include <cstdint>
#include <optional>
#include <vector>

#include "lattice/judging/model.hpp"
#include "lattice/learning/worked_sheet.hpp"

namespace lattice {

/// A trained network's answers to a few rows or records, worked from the raw features to the
/// answer, and back from there. Weights are frozen: nothing is trained.
///
/// The sweep starts from the score of the answered class, or from the predicted number, so that the
/// gradient of the features says how the answer depends on them, in their units. For several rows
/// it starts from the sum of theirs; each row still gets its own gradient.
///
/// @code
/// const Batch record{.rows = {}, .features = tensor({{2.1, 45, 0.5, 60, 1250}})};
/// const WorkedSheet work = work_answers(model, record);
/// work.why({"answer", {0}}, WorkedSheet::Ask::value);
/// work.sweep().gradient("raw");
/// @endcode
/// @param measured raw features; with classes or targets, the loss and the right answers are on the
///        sheet as well
/// @param of the class or the target, from 0, from whose score the sweep starts; by default the
///        answered class, or the first target
/// @throws ShapeError when examples have another shape than in training, IndexError for an unknown
///         class or target.
[[nodiscard]] WorkedSheet work_answers(const Model& model, const Batch& measured,
                                       std::optional<std::int64_t> of = std::nullopt);

/// The answer to one row, written so that the same lines hold for any other row: the answer and, if
/// known, the truth. The section `answers` has the lines `p`, or `level` if outputs are not
/// probabilities, `answer`, `t` (the truth, one-hot) and `right`; for numeric targets `answer` and
/// `off`.
/// @param measured one row of raw features
/// @throws ShapeError as `work_answers` does.
[[nodiscard]] WorkedSheet work_any_row(const Model& model, const Batch& measured);

/// How an answer depends on one number of a record.
struct Influence {
  double value;                              ///< raw
  double slope;                              ///< the derivative of the score
  std::optional<double> turn = {};           ///< the nearest value with a different answer
  std::optional<std::int64_t> becomes = {};  ///< the class of that answer
};

/// How the answer to one record of a table depends on each of its features. For classes, each
/// feature is changed alone, both ways, by up to four standard deviations or the range it was
/// scaled by, until the answer is different.
/// @param work of one record, from `work_answers`
/// @throws SettingError for several records, or examples of more than one axis.
[[nodiscard]] std::vector<Influence> influences(const Model& model, const WorkedSheet& work);

}  // namespace lattice
