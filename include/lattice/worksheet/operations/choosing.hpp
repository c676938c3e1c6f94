#pragma once

#include <cstdint>

#include "lattice/worksheet/worksheet.hpp"

/// Operations that take numbers by class, column or row number, and the way from there to ones and
/// zeros.
namespace lattice {

/// From each row of [n × k] the one number of the class that `classes` [n] names: [n]; from each
/// column, where examples are columns. No gradient is passed on to `classes`.
///
/// @code
/// at_class(p, classes);   // what each row gives its true class
/// @endcode
/// @throws ShapeError when the shapes are others, IndexError that names the row whose class is not
///         there.
template <Operand X>
[[nodiscard]] X at_class(const X& x, const X& classes);
[[nodiscard]] inline Line at_class(const Line& x, const Tensor& classes) {
  return at_class(x, detail::data_beside(x, classes));
}

/// The rows of x (positions along axis 0) that `rows` [m] names, in that order; a row may be named
/// several times. No gradient is passed on to `rows`.
/// @throws ShapeError when the shapes are others, IndexError that names the row that is not there.
template <Operand X>
[[nodiscard]] X gather_rows(const X& x, const X& rows);
[[nodiscard]] inline Line gather_rows(const Line& x, const Tensor& rows) {
  return gather_rows(x, detail::data_beside(x, rows));
}

/// `count` numbers for each class number: 1 at the place of the class, 0 elsewhere. `argmax` leads
/// back. No gradient is passed on.
/// @param axis of the result, along which they stand: the last for rows, the first for columns
/// @throws IndexError that names the class number outside 0 to `count` − 1, ShapeError for a count
///         below 1 or an axis that the result does not have.
template <Operand X>
[[nodiscard]] X one_hot(const X& classes, std::int64_t count, int axis = -1);

}  // namespace lattice
