#pragma once

#include <cstdint>
#include <optional>
#include <vector>

#include "lattice/judging/model.hpp"
#include "lattice/learning/worked_sheet.hpp"

namespace lattice {

/// A trained network's answers to a few rows or records, worked from what was measured as far as
/// what is said of it, and back from there. Weights are frozen: nothing is trained.
///
/// The sweep starts from the score of what was answered, or from the number itself, so that the
/// gradient of the features says what the answer depends on, in units as they were measured. Of
/// several rows the sweep starts from the sum of theirs; each row gets its own gradient all the
/// same.
///
/// @code
/// const Batch record{.rows = {}, .features = tensor({{2.1, 45, 0.5, 60, 1250}})};
/// const WorkedSheet work = work_answers(model, record);
/// work.why({"answer", {0}}, WorkedSheet::Ask::value);
/// work.sweep().gradient("raw");
/// @endcode
/// @param measured raw features; where classes or targets are known, too, the loss and what is
///        right stand on the sheet as well
/// @param of the class or the target, from 0, whose score is swept from; the class that was
///        answered, or the first target, when left out
/// @throws ShapeError when examples have another shape than the model learnt from, IndexError when
///         there is no such class or target.
[[nodiscard]] WorkedSheet work_answers(const Model& model, const Batch& measured,
                                       std::optional<std::int64_t> of = std::nullopt);

/// The answer to one row, written so that the same lines hold for any other row: what is said of
/// it and, where that is known, what is true, one beside the other. The section `answers` has the
/// lines `p`, or `level` where outputs are no probabilities, `answer`, `t` (the truth, one-hot) and
/// `right`; of numbers `answer` and `off`.
/// @param measured one row of raw features
/// @throws ShapeError as `work_answers` does.
[[nodiscard]] WorkedSheet work_any_row(const Model& model, const Batch& measured);

/// How an answer hangs on one number of a record.
struct Influence {
  double value;                     ///< as it was measured
  double slope;                     ///< how the score that is swept from changes with it
  std::optional<double> turn = {};  ///< the nearest value with which the answer is another one
  std::optional<std::int64_t> becomes = {};  ///< that answer, a class
};

/// How the answer to one record of a table hangs on each of its features. Where classes are told
/// apart, each feature is moved by itself, both ways and as far as four spreads or the stretch it
/// was scaled by, until the answer is another one.
/// @param work of one record, as `work_answers` gives it
/// @throws SettingError for several records, or examples of more than one axis.
[[nodiscard]] std::vector<Influence> influences(const Model& model, const WorkedSheet& work);

}  // namespace lattice
