#pragma once

#include <vector>

#include "lattice/tensor/tensor.hpp"

/// Plain arithmetic on tensors. Operations use it for their work, and write it down where they are
/// applied to lines.
namespace lattice {

/// A tensor, or one number that is stretched to whatever it meets.
class Term {
 public:
  Term(const Tensor& tensor) : tensor_(&tensor) {}
  Term(double number) : number_(number) {}

  /// Null for a plain number.
  [[nodiscard]] const Tensor* tensor() const { return tensor_; }
  [[nodiscard]] double number() const { return number_; }

 private:
  const Tensor* tensor_ = nullptr;
  double number_ = 0.0;
};

/// Sum, difference, product and quotient, number by number. Axes are matched from the last one; an
/// extent of 1, a missing axis and a plain number are stretched.
///
/// @code
/// (features - centre) / spread;   // [example × feature] less [feature], over [feature]
/// @endcode
/// @throws ShapeError when two extents differ and neither is 1, NumberError when the precisions
///         differ or a tensor holds nothing.
[[nodiscard]] Tensor operator+(const Term& a, const Term& b);
[[nodiscard]] Tensor operator-(const Term& a, const Term& b);
[[nodiscard]] Tensor operator*(const Term& a, const Term& b);
[[nodiscard]] Tensor operator/(const Term& a, const Term& b);

[[nodiscard]] Tensor operator-(const Tensor& x);

/// Along which axes numbers are brought together: all of them when none is named.
struct Along {
  std::vector<int> axes = {};  ///< counted from 0, or from the last, which is −1
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
[[nodiscard]] Tensor sum(const Tensor& x, const Along& along = {});

}  // namespace lattice
