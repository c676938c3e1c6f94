#pragma once

#include <cstdint>
#include <optional>
#include <vector>

#include "lattice/tensor/tensor.hpp"

/// Figures on answers. Each is over all rows, never a mean of the means of minibatches.
namespace lattice {

/// Loss and accuracy on some rows: those of a minibatch, or all rows of a part.
struct Figures {
  double loss = 0.0;
  std::optional<double> accuracy = std::nullopt;   ///< for classes
  std::optional<Tensor> confusion = std::nullopt;  ///< of `confusion`, on request
};

/// A mean over rows, by row weights, accumulated over minibatches: a smaller last minibatch counts
/// less accordingly.
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
  /// @param row_weights the sum of their row weights; without any, their number
  void add(double number, double row_weights) {
    sum_ += row_weights * number;
    row_weights_ += row_weights;
    plain_sum_ += number;
    ++added_;
  }

  [[nodiscard]] double sum() const { return sum_; }
  [[nodiscard]] double counted() const { return row_weights_; }
  [[nodiscard]] double mean() const { return sum_ / row_weights_; }

  /// The plain mean of the added numbers, whatever their rows: a different number if these differ.
  [[nodiscard]] double mean_of_means() const { return plain_sum_ / static_cast<double>(added_); }

 private:
  double sum_ = 0.0;
  double row_weights_ = 0.0;
  double plain_sum_ = 0.0;
  std::int64_t added_ = 0;
};

/// The confusion matrix: counts by true class (row) and answer (column), [class × class].
/// @param answers,classes class numbers [example]
[[nodiscard]] Tensor confusion(const Tensor& answers, const Tensor& classes, std::int64_t count);

/// For each class the share of its rows that are found; nothing for a class without rows.
/// @param confusion true class (row) by answer (column)
[[nodiscard]] std::vector<std::optional<double>> recalls(const Tensor& confusion);

/// Adds rows to such counts, by row weights [example]; 1 each if null.
void add_to_confusion(Tensor& counts, const Tensor& answers, const Tensor& classes,
                      const Tensor* row_weights = nullptr);

/// For each row whether the answer is right, or whether the true class is among the `k` with the
/// highest scores [example × class]. Among equal scores the lower class number comes first.
/// @throws ShapeError when the counts differ, SettingError for an impossible `k`.
[[nodiscard]] std::vector<bool> are_right(const Tensor& answers, const Tensor& classes);
[[nodiscard]] std::vector<bool> are_among_top(const Tensor& scores, const Tensor& classes,
                                              std::int64_t k);

/// The share of right answers, by row weights.
/// @param row_weights [example]; all the same if null
/// @throws ShapeError when the counts differ.
[[nodiscard]] double accuracy(const Tensor& answers, const Tensor& classes,
                              const Tensor* row_weights = nullptr);

/// The share of rows whose true class is among the `k` with the highest scores [example × class].
[[nodiscard]] double top_accuracy(const Tensor& scores, const Tensor& classes, std::int64_t k);

/// For groups without names: the class for each answer, each class once, such that as many rows as
/// possible are right.
/// Source: the assignment method (Kuhn, 1955; Munkres, 1957).
/// @param confusion true classes by answers, square
[[nodiscard]] std::vector<std::int64_t> best_matching(const Tensor& confusion);

/// The share of rows that are right under a matching.
[[nodiscard]] double matched_accuracy(const Tensor& confusion,
                                      const std::vector<std::int64_t>& matching);

}  // namespace lattice
