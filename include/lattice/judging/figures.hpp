#pragma once

#include <cstdint>
#include <optional>
#include <vector>

#include "lattice/tensor/tensor.hpp"

/// Figures about answers. Each is over all rows at once, never a mean of means over minibatches.
namespace lattice {

/// How good the answers to some rows were: the rows of a minibatch, or all rows of a part.
struct Figures {
  double loss = 0.0;
  std::optional<double> accuracy = std::nullopt;  ///< where classes are learnt
};

/// A mean over rows, each as much as it counts, gathered minibatch by minibatch: a smaller last one
/// has as much less say as it has less rows.
///
/// @code
/// MeanOfRows mean;
/// for (const Batch& batch : minibatches(pots, {.size = 16}, random))
///   mean.add(0.5, batch.total_weight());
/// mean.mean();
/// @endcode
class MeanOfRows {
 public:
  /// @param number the mean over the rows of a minibatch, or of one row
  /// @param row_weights how much these rows count together: their number, as a rule
  void add(double number, double row_weights) {
    sum_ += row_weights * number;
    row_weights_ += row_weights;
    plain_sum_ += number;
    ++added_;
  }

  [[nodiscard]] double sum() const { return sum_; }
  [[nodiscard]] double counted() const { return row_weights_; }
  [[nodiscard]] double mean() const { return sum_ / row_weights_; }

  /// The plain mean of what was added, however many rows each had: another number where they
  /// differ.
  [[nodiscard]] double mean_of_means() const { return plain_sum_ / static_cast<double>(added_); }

 private:
  double sum_ = 0.0;
  double row_weights_ = 0.0;
  double plain_sum_ = 0.0;
  std::int64_t added_ = 0;
};

/// How many of each true class (row) were given each answer (column): [class × class].
/// @param answers,classes class numbers [example]
[[nodiscard]] Tensor confusion(const Tensor& answers, const Tensor& classes, std::int64_t count);

/// Adds further rows to such counts, each as much as it counts [example]; 1 where that is null.
void add_to_confusion(Tensor& counts, const Tensor& answers, const Tensor& classes,
                      const Tensor* row_weights = nullptr);

/// For each row whether the answer is right, and whether the true class is among the `k` with the
/// highest scores [example × class]. Of equal scores the lower class number comes first.
/// @throws ShapeError when the counts differ, SettingError for a `k` that cannot be.
[[nodiscard]] std::vector<bool> are_right(const Tensor& answers, const Tensor& classes);
[[nodiscard]] std::vector<bool> are_among_top(const Tensor& scores, const Tensor& classes,
                                              std::int64_t k);

/// The share of answers that are right, each as much as it counts.
/// @param row_weights how much each row counts [example]; all the same where it is null
/// @throws ShapeError when the counts differ.
[[nodiscard]] double accuracy(const Tensor& answers, const Tensor& classes,
                              const Tensor* row_weights = nullptr);

/// The share of rows whose true class is among the `k` with the highest scores [example × class].
[[nodiscard]] double top_accuracy(const Tensor& scores, const Tensor& classes, std::int64_t k);

/// For each answer the class it is best taken for, so that as many rows as possible are right, for
/// groupings without names. No class is taken twice.
/// Source: the assignment method (Kuhn, 1955; Munkres, 1957).
/// @param confusion true classes by answers, square
[[nodiscard]] std::vector<std::int64_t> best_matching(const Tensor& confusion);

/// The share of rows that are right under a matching.
[[nodiscard]] double matched_accuracy(const Tensor& confusion,
                                      const std::vector<std::int64_t>& matching);

}  // namespace lattice
