#pragma once

#include <optional>
#include <type_traits>

#include "lattice/worksheet/operations/form.hpp"
#include "lattice/worksheet/worksheet.hpp"

/// How far guesses are from the truth, in one number: the mean over rows (positions along axis 0).
/// The truth of a line may be a tensor, which is written down as data without a name.
namespace lattice {

/// How a loss is calculated and recorded.
template <class X>
struct LossSettings {
  /// Row weights [n], 0 or more. The mean divides by their sum, not n; ones and zeros make a mask.
  /// They get no gradient.
  std::optional<X> row_weights = std::nullopt;

  Form form = Form::one_line;
  double epsilon =
      usual_log_epsilon;  ///< added inside the log of a cross-entropy in `Form::patched`
};

/// The settings of a loss that is applied to operands of a type.
template <class X>
using LossSettingsFor = LossSettings<std::type_identity_t<X>>;

/// The mean of (z − y)² over all numbers.
/// @throws ShapeError when the shapes differ: nothing is stretched, since [n × 1] against [n] would
///         quietly compare every guess with every target; or when `row_weights` is not [n].
///         NumberError when a number of `row_weights` is below 0 or none is above. So do the others
///         below.
template <Operand X>
[[nodiscard]] X mean_squared(const X& z, const X& y, const LossSettingsFor<X>& settings = {});
[[nodiscard]] inline Line mean_squared(const Line& z, const Tensor& y,
                                       const LossSettings<Line>& settings = {}) {
  return mean_squared(z, detail::data_beside(z, y), settings);
}

/// Half the mean of (z − y)², the same number as `0.5 * mean(square(z - y))` with three lines less.
template <Operand X>
[[nodiscard]] X half_mean_squared(const X& z, const X& y, const LossSettingsFor<X>& settings = {});
[[nodiscard]] inline Line half_mean_squared(const Line& z, const Tensor& y,
                                            const LossSettings<Line>& settings = {}) {
  return half_mean_squared(z, detail::data_beside(z, y), settings);
}

/// Binary cross-entropy straight from scores: the mean of −y·log p − (1 − y)·log(1 − p) with
/// p = sigmoid(scores), worked as log(1 + e^score) − score·y, so that neither exp overflows nor a
/// log meets 0; `Form::naive` takes p by itself. Labels y are from 0 to 1.
/// @throws NumberError when a label is not from 0 to 1.
template <Operand X>
[[nodiscard]] X binary_cross_entropy(const X& scores, const X& labels,
                                     const LossSettingsFor<X>& settings = {});
[[nodiscard]] inline Line binary_cross_entropy(const Line& scores, const Tensor& labels,
                                               const LossSettings<Line>& settings = {}) {
  return binary_cross_entropy(scores, detail::data_beside(scores, labels), settings);
}

/// Cross-entropy straight from scores [n × k]: the mean of −log softmax(scores) at the true class,
/// worked as log Σ e^score − score, so that nothing overflows; `Form::naive` takes softmax and
/// log one after the other. The truth is a class number for each row [n], or a row of probabilities
/// [n × k], which weigh the classes.
/// @throws IndexError that names the row with a class number outside 0 to k − 1.
template <Operand X>
[[nodiscard]] X cross_entropy(const X& scores, const X& truth,
                              const LossSettingsFor<X>& settings = {});
[[nodiscard]] inline Line cross_entropy(const Line& scores, const Tensor& truth,
                                        const LossSettings<Line>& settings = {}) {
  return cross_entropy(scores, detail::data_beside(scores, truth), settings);
}

/// What each row has lost: [n] numbers, whose mean the losses above are. Of several outputs it is
/// their mean, as there. @throws as the losses do.
[[nodiscard]] Tensor squared_of_rows(const Tensor& z, const Tensor& y);
[[nodiscard]] Tensor binary_cross_entropy_of_rows(const Tensor& scores, const Tensor& labels);
[[nodiscard]] Tensor cross_entropy_of_rows(const Tensor& scores, const Tensor& truth);

/// Half of `strength` times the sum of all squared numbers of a weight: a term to add to a loss,
/// with the gradient `strength`·W, which pulls weights towards 0.
/// @throws SettingError unless `strength` is a number of 0 or more.
template <Operand X>
[[nodiscard]] X l2_term(const X& W, double strength, Form form = Form::one_line);

}  // namespace lattice
