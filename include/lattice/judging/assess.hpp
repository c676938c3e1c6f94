#pragma once

#include <cstdint>
#include <functional>
#include <optional>
#include <string>
#include <vector>

#include "lattice/data/row_set.hpp"
#include "lattice/judging/figures.hpp"
#include "lattice/judging/loss.hpp"

namespace lattice {

/// How well one class is told from the others. A share of nothing is 0.
struct ClassFigures {
  std::string name;
  double rows = 0.0;       ///< that are of the class, as much as each counts
  double answers = 0.0;    ///< that name it
  double precision = 0.0;  ///< the share of those answers that are right
  double recall = 0.0;     ///< the share of those rows that are found
  double f1 = 0.0;         ///< the harmonic mean of both
};

/// How well rows are grouped, whatever the groups are called.
struct Grouping {
  std::vector<std::int64_t> matching = {};  ///< for each answer the class it is best taken for
  double accuracy = 0.0;                    ///< if it is taken for that
};

/// How well classes are told apart.
struct ClassJudgement {
  double accuracy = 0.0;
  std::int64_t top = 2;       ///< how many of the likeliest classes may hold the true one
  double top_accuracy = 0.0;  ///< when so many may
  Tensor confusion;           ///< true class (row) by answer (column), as much as rows count
  std::vector<ClassFigures> classes = {};

  /// For groupings, whose numbers mean nothing by themselves, where it was asked for.
  std::optional<Grouping> grouping = std::nullopt;

  double uniform_guess_loss = 0.0;  ///< of as much for every class: ln n for the cross-entropies
  double uniform_guess_accuracy = 0.0;  ///< 1/n
  std::string commonest = {};
  double commonest_accuracy = 0.0;  ///< of always naming the commonest class
};

/// How near the numbers of one target are met, in its unit.
struct NumberJudgement {
  std::string target = {};
  std::string unit = {};  ///< may be empty
  double mean_squared = 0.0;
  double mean_absolute = 0.0;
  double r_squared = 0.0;           ///< the share of the variance that is explained; 1 at best
  double mean_guess_squared = 0.0;  ///< the mean square of always saying the mean: the variance
};

/// How good a network is on a part of the data.
struct Assessment {
  std::int64_t rows = 0;
  double loss = 0.0;            ///< the mean over rows of what the network was trained by
  bool loss_is_scaled = false;  ///< whether that compares scaled numbers, unlike `numbers`
  std::optional<ClassJudgement> classes = std::nullopt;
  std::vector<NumberJudgement> numbers = {};  ///< one a target; empty for classes

  /// The accuracy for classes; for numbers R², its mean over targets where there are several.
  [[nodiscard]] double figure() const;
};

/// What others reached on the same question, to be held beside a figure: a person, the best that is
/// known, another program.
struct Reference {
  std::string name;
  double figure = 0.0;  ///< as `Assessment::figure` is: an accuracy, or R²

  friend bool operator==(const Reference&, const Reference&) = default;
};

struct AssessSettings {
  std::optional<Loss> loss = std::nullopt;  ///< `usual_loss` when left out
  std::int64_t top = 2;              ///< how many of the likeliest classes may hold the true one
  bool as_groups = false;            ///< whether to judge the answers as groups without names, too
  std::int64_t chunk = usual_chunk;  ///< rows that are looked at at a time; any gives the same
};

/// Judges a network on rows, in use and without learning anything.
///
/// @code
/// const Assessment test = assess(net, glazes.test);
/// fmt::print("{:.3f}\n", test.classes->accuracy);
/// @endcode
/// @throws as `check_fits` does; SettingError when `top` or `chunk` is below 1.
[[nodiscard]] Assessment assess(const Network& network, const RowSet& rows,
                                const AssessSettings& settings = {});

/// A row that a network was asked about.
struct JudgedRow {
  std::int64_t row = 0;  ///< its number in the data
  double loss = 0.0;
  std::int64_t answer = -1;  ///< the class that was named, where there are classes
};

/// The rows that a network gets wrong, at most so many, those with the highest loss first; where
/// numbers are predicted, those that it is farthest from. @throws as `each_chunk` does.
[[nodiscard]] std::vector<JudgedRow> rows_got_wrong(const Network& network, const Loss& loss,
                                                    const RowSet& rows, std::int64_t most);

/// Loss and accuracy alone. @throws as `assess` does.
[[nodiscard]] Figures figures_of(const Network& network, const Loss& loss, const RowSet& rows,
                                 std::int64_t chunk = usual_chunk);

/// The outputs of a network for a batch, as `write_scores` gives them. They are worked in whole
/// eights of rows, filled up where there are fewer, so that what is said of a row does not depend
/// on the rows that come with it; where side inputs belong to all rows at once, as they are.
[[nodiscard]] Tensor outputs_for(const Network& network, const Loss& loss, const Batch& batch);

/// The outputs for all rows, worked a chunk of them at a time. @throws as `each_chunk` does.
[[nodiscard]] Tensor outputs_for(const Network& network, const Loss& loss, const RowSet& rows,
                                 std::int64_t chunk = usual_chunk);

/// Calls `look` with the outputs of a network for rows, a chunk of them at a time; all at once
/// where side inputs belong to all rows.
void each_chunk(const Network& network, const Loss& loss, const RowSet& rows, std::int64_t chunk,
                const std::function<void(const Batch& batch, const Tensor& outputs)>& look);

}  // namespace lattice
