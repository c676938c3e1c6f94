#pragma once

#include <cstdint>
#include <functional>
#include <optional>
#include <string>
#include <vector>

#include "lattice/data/row_set.hpp"
#include "lattice/judging/figures.hpp"
#include "lattice/judging/loss.hpp"
#include "lattice/text/printing.hpp"

namespace lattice {

/// How well one class is distinguished from the others. A share of nothing is 0.
struct ClassFigures {
  std::string name;
  double rows = 0.0;       ///< of the class, by their weights
  double answers = 0.0;    ///< that give it
  double precision = 0.0;  ///< the share of those answers that are right
  double recall = 0.0;     ///< the share of those rows that are found
  double f1 = 0.0;         ///< the harmonic mean of both
};

/// How well rows are grouped, whatever the names of the groups.
struct Grouping {
  std::vector<std::int64_t> matching = {};  ///< for each answer the class that matches best
  double accuracy = 0.0;                    ///< with that matching
};

/// How well classes are distinguished.
struct ClassJudgement {
  double accuracy = 0.0;
  std::int64_t top = 2;       ///< how many of the likeliest classes `top_accuracy` accepts
  double top_accuracy = 0.0;  ///< the true class is one of them
  Tensor confusion;           ///< true class (row) by answer (column), by row weights
  std::vector<ClassFigures> classes = {};

  /// For groups without names, on request.
  std::optional<Grouping> grouping = std::nullopt;

  double uniform_guess_loss = 0.0;      ///< of equal probabilities: ln n for the cross-entropies
  double uniform_guess_accuracy = 0.0;  ///< 1/n
  std::string commonest = {};
  double commonest_accuracy = 0.0;  ///< of always answering the commonest class
};

/// How well the numbers of one target are predicted, in its unit.
struct NumberJudgement {
  std::string target = {};
  std::string unit = {};  ///< may be empty
  double mean_squared = 0.0;
  double mean_absolute = 0.0;
  double r_squared = 0.0;           ///< the explained share of the variance; at most 1
  double mean_guess_squared = 0.0;  ///< of always answering the mean: the variance
};

/// How good a network is on a part of the data.
struct Assessment {
  std::int64_t rows = 0;
  double loss = 0.0;            ///< the mean of the training loss over rows
  bool loss_is_scaled = false;  ///< whether it is of scaled numbers, unlike `numbers`
  std::optional<ClassJudgement> classes = std::nullopt;
  std::vector<NumberJudgement> numbers = {};  ///< one a target; empty for classes

  /// The accuracy for classes; for numbers R², its mean over targets where there are several.
  [[nodiscard]] double figure() const;
};

/// The result of others on the same task, for comparison: a person, the best known, another
/// program.
struct Reference {
  std::string name;
  double figure = 0.0;  ///< like `Assessment::figure`: an accuracy, or R²

  friend bool operator==(const Reference&, const Reference&) = default;
};

struct AssessSettings {
  std::optional<Loss> loss = std::nullopt;  ///< `usual_loss` when left out
  std::int64_t top = 2;                     ///< how many of the likeliest classes are accepted
  bool as_groups = false;            ///< whether to assess the answers as groups without names, too
  std::int64_t chunk = usual_chunk;  ///< rows evaluated at a time; never changes a result
};

/// Evaluates a network on rows.
///
/// @code
/// const Assessment test = assess(net, glazes.test);
/// fmt::print("{:.3f}\n", test.classes->accuracy);
/// @endcode
/// @throws as `check_fits` does; SettingError when `top` or `chunk` is below 1.
[[nodiscard]] Assessment assess(const Network& network, const RowSet& rows,
                                const AssessSettings& settings = {});

/// Judges answers that no network gave: those of a person, of a rule, or of tensors of your own.
///
/// @code
/// const Tensor guessed = tensor({0, 2, 1, 1});
/// const Tensor kinds = tensor({0, 2, 2, 1});
/// const ClassJudgement judged = judge(guessed, kinds, {"bowl", "plate", "jug"});
/// judged.accuracy;   // 0.75
/// @endcode
/// @param answers class numbers [example], or a number for each class [example × class], of which
///                the largest is the answer
/// @param classes the true class numbers [example]
/// @param names of class 0, of class 1 …; by default `class 0` and so on, as many as there are
/// @throws ShapeError when the numbers of rows differ, NumberError for a class that is not a whole
///         number from 0, or has no name although others do.
[[nodiscard]] ClassJudgement judge(const Tensor& answers, const Tensor& classes,
                                   std::vector<std::string> names = {});

/// A row and the answer of a network.
struct JudgedRow {
  std::int64_t row = 0;  ///< its number in the data
  double loss = 0.0;
  std::int64_t answer = -1;  ///< the answered class, if there are classes
};

/// The rows that a network gets wrong, at most so many, by descending loss; for numeric targets
/// those with the largest loss. @throws as `each_chunk` does.
[[nodiscard]] std::vector<JudgedRow> rows_got_wrong(const Network& network, const Loss& loss,
                                                    const RowSet& rows, std::int64_t most);

/// Loss and accuracy only, and the confusion matrix on request, if there are classes.
/// @throws as `assess` does.
[[nodiscard]] Figures figures_of(const Network& network, const Loss& loss, const RowSet& rows,
                                 std::int64_t chunk = usual_chunk, bool with_confusion = false);

/// The outputs of a network for a batch, as `write_scores` computes them. Rows are padded to a
/// multiple of eight, so that the bits of a row do not depend on the other rows; not if side inputs
/// belong to all rows together.
[[nodiscard]] Tensor outputs_for(const Network& network, const Loss& loss, const Batch& batch);

/// The outputs for all rows, a chunk at a time. @throws as `each_chunk` does.
[[nodiscard]] Tensor outputs_for(const Network& network, const Loss& loss, const RowSet& rows,
                                 std::int64_t chunk = usual_chunk);

/// Calls `look` with the outputs of a network for rows, a chunk at a time; all at once if side
/// inputs belong to all rows.
void each_chunk(const Network& network, const Loss& loss, const RowSet& rows, std::int64_t chunk,
                const std::function<void(const Batch& batch, const Tensor& outputs)>& look);

template <>
inline constexpr bool detail::is_shown_elsewhere<Assessment> = true;

template <>
inline constexpr bool detail::is_shown_elsewhere<ClassJudgement> = true;

}  // namespace lattice
