#pragma once

#include "lattice/worksheet/operations/form.hpp"
#include "lattice/worksheet/worksheet.hpp"

/// How far guesses are from the truth, in one number: the mean over rows (positions along axis 0).
///
/// Each loss can be told how much each row counts: `counted` [n] holds a number of 0 or more for
/// each row, and the mean is taken over Σ counted instead of n. With ones and zeros it is a mask:
/// only some rows count. No gradient is passed on to `counted`.
namespace lattice {

/// The mean of (z − y)² over all numbers.
/// @throws ShapeError when the shapes differ: nothing is stretched, since [n × 1] against [n] would
///         quietly compare every guess with every target; or when `counted` is not [n]. NumberError
///         when a number of `counted` is below 0 or none is above. So do the others below.
template <Operand X>
[[nodiscard]] X mean_squared(const X& z, const X& y, Form form = Form::one_line);
template <Operand X>
[[nodiscard]] X mean_squared(const X& z, const X& y, const X& counted, Form form = Form::one_line);

/// Half the mean of (z − y)², the same number as `0.5 * mean(square(z - y))` with three lines less.
template <Operand X>
[[nodiscard]] X half_mean_squared(const X& z, const X& y, Form form = Form::one_line);
template <Operand X>
[[nodiscard]] X half_mean_squared(const X& z, const X& y, const X& counted,
                                  Form form = Form::one_line);

/// Binary cross-entropy straight from scores: the mean of −y·log p − (1 − y)·log(1 − p) with
/// p = sigmoid(scores), worked as log(1 + e^score) − score·y, so that neither exp overflows nor a
/// log meets 0; `Form::careless` takes p by itself. Labels y are from 0 to 1.
/// @throws NumberError when a label is not from 0 to 1.
template <Operand X>
[[nodiscard]] X binary_cross_entropy(const X& scores, const X& labels, Form form = Form::one_line);
template <Operand X>
[[nodiscard]] X binary_cross_entropy(const X& scores, const X& labels, const X& counted,
                                     Form form = Form::one_line);

/// Cross-entropy straight from scores [n × k]: the mean of −log softmax(scores) at the true class,
/// worked as log Σ e^score − score, so that nothing overflows; `Form::careless` takes softmax and
/// log one after the other. The truth is a class number for each row [n], or a row of probabilities
/// [n × k], which weigh the classes.
/// @throws IndexError that names the row with a class number outside 0 to k − 1.
template <Operand X>
[[nodiscard]] X cross_entropy(const X& scores, const X& truth, Form form = Form::one_line);
template <Operand X>
[[nodiscard]] X cross_entropy(const X& scores, const X& truth, const X& counted,
                              Form form = Form::one_line);

/// Half of `strength` times the sum of all squared numbers of a weight: a term to add to a loss,
/// with the gradient `strength`·W, which pulls weights towards 0.
/// @throws SettingError unless `strength` is a number of 0 or more.
template <Operand X>
[[nodiscard]] X l2_term(const X& W, double strength, Form form = Form::one_line);

}  // namespace lattice
