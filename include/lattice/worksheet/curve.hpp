#pragma once

#include <functional>

#include "lattice/worksheet/worksheet.hpp"

namespace lattice {

/// A function of one number and its derivative, over a range.
struct Curve {
  Tensor x;      ///< evenly spaced, both ends included
  Tensor value;  ///< of the function there
  Tensor slope;  ///< of its derivative there, from a reverse sweep
};

/// Works out a curve. The function is any calculation that handles each number by itself, such as
/// an activation or an operation of one's own.
///
/// @code
/// const Curve bend = curve([](const Line& x) { return tanh(x); }, -3, 3, 61);
/// @endcode
/// @throws ShapeError when the function gives another shape than it gets, or for a count below 1;
///         otherwise as the function does.
[[nodiscard]] Curve curve(const std::function<Line(const Line&)>& function, double first,
                          double last, std::int64_t count);

}  // namespace lattice
