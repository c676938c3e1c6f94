#pragma once

#include <concepts>
#include <limits>

#include "lattice/tensor/arithmetic.hpp"
#include "lattice/worksheet/operations/form.hpp"
#include "lattice/worksheet/worksheet.hpp"

namespace lattice {

/// The sum of the numbers along some axes, written down; of tensors it is plain arithmetic.
/// @throws ShapeError when an axis is not there or named twice; so do the others below.
[[nodiscard]] Line sum(const Line& x, const Along& along = {});

/// The mean of the numbers along some axes: their sum divided by how many they are.
template <Operand X>
[[nodiscard]] X mean(const X& x, const Along& along = {});

/// The variance of the numbers along some axes: the mean of their squared distances from their
/// mean, divided by how many they are and not by one less.
template <Operand X>
[[nodiscard]] X variance(const X& x, const Along& along = {});

/// The largest, and the smallest, of the numbers along some axes. The gradient goes to the first of
/// several that are equal.
template <Operand X>
[[nodiscard]] X max(const X& x, const Along& along = {});
template <Operand X>
[[nodiscard]] X min(const X& x, const Along& along = {});

/// log Σ e^x along some axes, worked as m + log Σ e^(x − m) with the largest number m, so that
/// nothing overflows.
template <Operand X>
[[nodiscard]] X log_sum_exp(const X& x, const Along& along = {}, Form form = Form::one_line);

/// The same along one axis: `sum(x, 0)`.
template <Operand X, std::integral Axis>
[[nodiscard]] X sum(const X& x, Axis axis) {
  return sum(x, Along{.axes = {static_cast<int>(axis)}});
}
template <Operand X, std::integral Axis>
[[nodiscard]] X mean(const X& x, Axis axis) {
  return mean(x, Along{.axes = {static_cast<int>(axis)}});
}
template <Operand X, std::integral Axis>
[[nodiscard]] X variance(const X& x, Axis axis) {
  return variance(x, Along{.axes = {static_cast<int>(axis)}});
}

/// The last axis of whatever tensor it is; −2 is the one before it.
inline constexpr int last_axis = -1;

/// Across the classes, or whatever an example has numbers for: along the last axis, or along the
/// one before it where examples stand along the last, as columns.
inline constexpr int across_classes = std::numeric_limits<int>::min();

/// e^x / Σ e^x along an axis: positive numbers that add up to 1. Worked with x − max, so that
/// nothing overflows; `Form::naive` leaves that out.
template <Operand X>
[[nodiscard]] X softmax(const X& x, int axis = across_classes, Form form = Form::one_line);

/// x − log Σ e^x along an axis: the logarithm of softmax, without ever taking the log of a number
/// that was rounded to 0. `Form::naive` takes it, `Form::patched` of that number and `epsilon`.
template <Operand X>
[[nodiscard]] X log_softmax(const X& x, int axis = across_classes, Form form = Form::one_line,
                            double epsilon = usual_log_epsilon);

/// Where along an axis the largest number stands, counted from 0; the first of equally large ones.
/// Passes no gradient on.
template <Operand X>
[[nodiscard]] X argmax(const X& x, int axis = across_classes);

}  // namespace lattice
