#pragma once

#include <vector>

#include "lattice/worksheet/worksheet.hpp"

namespace lattice {

/// Along which axes numbers are brought together: all of them when none is named.
struct Along {
  std::vector<int> axes = {};  ///< counted from 0
  bool keep = false;           ///< leave each of these axes in place with an extent of 1
};

/// The sum of the numbers along some axes.
///
/// @code
/// sum(tensor({{1, 2}, {3, 4}}));                               // 10
/// sum(tensor({{1, 2}, {3, 4}}), {.axes = {0}});                // 4 6
/// sum(tensor({{1, 2}, {3, 4}}), {.axes = {1}, .keep = true});  // 3 7 as [2 × 1]
/// @endcode
/// @throws ShapeError when an axis is not there or named twice.
[[nodiscard]] Line sum(const Line& x, const Along& along = {});
[[nodiscard]] Tensor sum(const Tensor& x, const Along& along = {});

/// The mean of the numbers along some axes: their sum divided by how many they are.
/// @throws ShapeError when an axis is not there or named twice.
[[nodiscard]] Line mean(const Line& x, const Along& along = {});
[[nodiscard]] Tensor mean(const Tensor& x, const Along& along = {});

}  // namespace lattice
