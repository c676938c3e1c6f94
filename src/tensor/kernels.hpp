#pragma once

#include <Eigen/Core>
#include <array>
#include <cstdint>

#include "lattice/tensor/tensor.hpp"
#include "tensor/array_functions.hpp"
#include "tensor/visit.hpp"

/// The loops behind the operations. The functions they are given are generic in the number type and
/// are called on whole arrays where the shapes allow it, on single numbers elsewhere.
namespace lattice::kernels {

template <class T>
using Whole = Eigen::Map<Eigen::Array<T, Eigen::Dynamic, 1>, Eigen::Aligned64>;
template <class T>
using ConstWhole = Eigen::Map<const Eigen::Array<T, Eigen::Dynamic, 1>, Eigen::Aligned64>;

/// How many numbers a storage block really has room for: whole blocks of 64 bytes.
template <class T>
std::int64_t padded(std::int64_t count) {
  constexpr std::int64_t in_block = 64 / static_cast<std::int64_t>(sizeof(T));
  return (count + in_block - 1) / in_block * in_block;
}

/// The numbers of a tensor and the padding after them, as one array. Because there is never a tail,
/// a result depends on the number it is made from and never on where that number stands.
template <class T>
Whole<T> whole(Tensor& tensor) {
  return Whole<T>(tensor.writable<T>(), padded<T>(tensor.count()));
}
template <class T>
ConstWhole<T> whole(const Tensor& tensor) {
  return ConstWhole<T>(tensor.data<T>(), padded<T>(tensor.count()));
}

/// `f(x)` of every number. `f` takes an array.
template <class F>
Tensor map(const Tensor& x, F f) {
  Tensor result = Tensor::unfilled(x.shape(), x.precision());
  visit(x.precision(), [&]<class T>(T) { whole<T>(result) = f(whole<T>(x)); });
  return result;
}

/// `f(x, y)` of the numbers of two tensors of one shape. `f` takes arrays.
template <class F>
Tensor map(const Tensor& x, const Tensor& y, F f) {
  Tensor result = Tensor::unfilled(x.shape(), x.precision());
  visit(x.precision(), [&]<class T>(T) { whole<T>(result) = f(whole<T>(x), whole<T>(y)); });
  return result;
}

/// `f(x, y, z)` of the numbers of three tensors of one shape. `f` takes arrays.
template <class F>
Tensor map(const Tensor& x, const Tensor& y, const Tensor& z, F f) {
  Tensor result = Tensor::unfilled(x.shape(), x.precision());
  visit(x.precision(),
        [&]<class T>(T) { whole<T>(result) = f(whole<T>(x), whole<T>(y), whole<T>(z)); });
  return result;
}

/// `x` becomes `f(x)`, in place when no one else holds its numbers. `f` takes an array.
template <class F>
void change(Tensor& x, F f) {
  visit(x.precision(), [&]<class T>(T) {
    Whole<T> numbers = whole<T>(x);
    numbers = f(numbers);
  });
}

/// How to walk two tensors while they are stretched to a shape: axes that behave alike are merged,
/// and a stretched axis has a step of 0.
struct Walk {
  std::array<std::int64_t, max_rank> extents{};
  std::array<std::int64_t, max_rank> step_a{};
  std::array<std::int64_t, max_rank> step_b{};
  int rank = 0;
};

[[nodiscard]] Walk walk(const Shape& shape, const Shape& a, const Shape& b);

/// Calls `row(offset, a, b)` for each innermost row of a walk, with the offsets where it starts in
/// the stretched shape and in both tensors.
template <class Row>
void each_row(const Walk& walk, Row row) {
  const int outer = walk.rank - 1;
  std::array<std::int64_t, max_rank> at{};
  std::int64_t in_a = 0;
  std::int64_t in_b = 0;
  for (std::int64_t offset = 0;;) {
    row(offset, in_a, in_b);
    offset += walk.extents[static_cast<size_t>(outer)];
    int axis = outer - 1;
    for (; axis >= 0; --axis) {
      const auto i = static_cast<size_t>(axis);
      in_a += walk.step_a[i];
      in_b += walk.step_b[i];
      if (++at[i] < walk.extents[i]) break;
      in_a -= walk.step_a[i] * walk.extents[i];
      in_b -= walk.step_b[i] * walk.extents[i];
      at[i] = 0;
    }
    if (axis < 0) return;
  }
}

/// `f(a, b, others…)` where a and b are stretched to `shape` and the others have that shape
/// already. `f` takes arrays and numbers in any mixture.
template <class F, class... Others>
Tensor stretch(const Shape& shape, const Tensor& a, const Tensor& b, F f, const Others&... others) {
  Tensor result = Tensor::unfilled(shape, a.precision());
  visit(a.precision(), [&]<class T>(T) {
    if (a.shape() == shape && b.shape() == shape) {
      whole<T>(result) = f(whole<T>(a), whole<T>(b), whole<T>(others)...);
    } else if (a.shape() == shape && b.count() == 1) {
      whole<T>(result) = f(whole<T>(a), *b.data<T>(), whole<T>(others)...);
    } else if (b.shape() == shape && a.count() == 1) {
      whole<T>(result) = f(*a.data<T>(), whole<T>(b), whole<T>(others)...);
    } else {
      const Walk steps = walk(shape, a.shape(), b.shape());
      const auto inner = static_cast<size_t>(steps.rank - 1);
      const std::int64_t width = steps.extents[inner];
      const std::int64_t step_a = steps.step_a[inner];
      const std::int64_t step_b = steps.step_b[inner];
      T* const to = result.writable<T>();
      each_row(steps, [&](std::int64_t offset, std::int64_t in_a, std::int64_t in_b) {
        const T* const row_a = a.data<T>() + in_a;
        const T* const row_b = b.data<T>() + in_b;
        for (std::int64_t i = 0; i < width; ++i) {
          to[offset + i] =
              f(row_a[i * step_a], row_b[i * step_b], others.template data<T>()[offset + i]...);
        }
      });
    }
  });
  return result;
}

/// Which axes a reduction brings together, one bit an axis.
using AxisSet = unsigned;

[[nodiscard]] constexpr bool contains(AxisSet axes, int axis) {
  return ((axes >> axis) & 1U) != 0;
}

/// Sums over some axes, divided by `divisor`; the result gets `shape`, which has as many numbers as
/// are left. The order of summation depends on the shape alone.
[[nodiscard]] Tensor sum(const Tensor& x, AxisSet axes, const Shape& shape, double divisor = 1.0);

/// The shape of what is left when the axes of a set are kept with an extent of 1.
[[nodiscard]] Shape kept(const Shape& shape, AxisSet axes);

/// The largest number along some axes; the result gets `shape`.
[[nodiscard]] Tensor largest(const Tensor& x, AxisSet axes, const Shape& shape);

/// How many places along some axes come before the first largest number; the result gets `shape`.
[[nodiscard]] Tensor first_largest(const Tensor& x, AxisSet axes, const Shape& shape);

/// Each number of `arrived` at the place of the first largest number of `x` along some axes, and 0
/// elsewhere; of the shape of `x`.
[[nodiscard]] Tensor to_first_largest(const Tensor& x, AxisSet axes, const Tensor& arrived);

/// exp(x − y), with y stretched to the shape of x.
[[nodiscard]] Tensor exp_of_difference(const Tensor& x, const Tensor& y);

/// m + log Σ exp(x − m) along some axes, with the largest number m; the result gets `shape`.
[[nodiscard]] Tensor log_sum_exp(const Tensor& x, AxisSet axes, const Shape& shape);

/// The opposite of `sum`: each number of `x`, divided by `divisor`, at every place of `shape` that
/// `sum` over `axes` brought to it.
[[nodiscard]] Tensor spread(const Tensor& x, AxisSet axes, const Shape& shape, double divisor);

/// The sum over every axis along which a tensor of `shape` is stretched to the shape of `x`.
[[nodiscard]] Tensor sum_stretched(const Tensor& x, const Shape& shape);

/// The axes of `stretched` along which `shape` is stretched to it.
[[nodiscard]] AxisSet stretched_axes(const Shape& shape, const Shape& stretched);

/// Whether a factor of a product is taken as it is or with rows and columns exchanged.
enum class Turned { no, yes };

[[nodiscard]] constexpr Turned other_way(Turned turned) {
  return turned == Turned::no ? Turned::yes : Turned::no;
}

/// The matrix product of two tensors of rank 2 or more, either turned. The last two axes are the
/// matrices; the others are stretched to those of the result, which gets `shape`.
[[nodiscard]] Tensor product(const Tensor& a, Turned a_turned, const Tensor& b, Turned b_turned,
                             const Shape& shape);

/// The product of a sparse matrix and a matrix. Each row of `entries` is a place and a number: row,
/// column, number. Turned, rows and columns of the sparse matrix change places.
[[nodiscard]] Tensor sparse_product(const Tensor& entries, Turned turned, const Tensor& b,
                                    const Shape& shape);

/// `scale` times the mean of `f(a, b)`, as one number. Shapes are the same; `f` takes arrays.
template <class F>
Tensor mean_of(const Tensor& a, const Tensor& b, double scale, F f) {
  Tensor result = Tensor::unfilled({}, a.precision());
  visit(a.precision(), [&]<class T>(T) {
    using Row = Eigen::Map<const Eigen::Array<T, Eigen::Dynamic, 1>>;
    const Row first(a.data<T>(), a.count());
    const Row second(b.data<T>(), b.count());
    *result.writable<T>() =
        static_cast<T>(scale) * (f(first, second).sum() / static_cast<T>(a.count()));
  });
  return result;
}

/// The mean over rows of log Σ exp(scores) − the score of the class that `classes` names, or the
/// sum with `shares` of the rows where there are any. Scores are [n × k].
[[nodiscard]] Tensor cross_entropy(const Tensor& scores, const Tensor& classes,
                                   const Tensor& shares);

/// How that changes with each score, times `arrived`.
[[nodiscard]] Tensor cross_entropy_slope(const Tensor& scores, const Tensor& classes,
                                         const Tensor& shares, double arrived);

/// Adds the numbers of `row` to each row of `total`, whose last axis is as long.
void add_to_rows(Tensor& total, const Tensor& row);

/// A tensor with one number everywhere.
[[nodiscard]] Tensor filled(const Shape& shape, Precision precision, double number);

/// A block of a tensor and where it goes in another: for each axis how many positions, and how far
/// apart neighbours are on both sides, counted in numbers.
struct Block {
  int rank = 0;
  std::array<std::int64_t, max_rank> extents{};
  std::array<std::int64_t, max_rank> from_step{};
  std::array<std::int64_t, max_rank> to_step{};
  std::int64_t from_start = 0;
  std::int64_t to_start = 0;
};

/// Copies a block of `from` to its place in `to`.
void copy(const Tensor& from, Tensor& to, const Block& block);

/// The way back: adds what stands at the block's place in `result` to where it came from in `from`.
void add_back(const Tensor& result, Tensor& from, const Block& block);

/// From each row of `x` the number in the column that `columns` names.
[[nodiscard]] Tensor pick(const Tensor& x, const Tensor& columns, const Shape& shape);

/// Writes each number of `x` into the column that `columns` names, of its row of `to`.
void put_picked(const Tensor& x, const Tensor& columns, Tensor& to);

/// The positions along axis 0 that `rows` names.
[[nodiscard]] Tensor gather_rows(const Tensor& x, const Tensor& rows, const Shape& shape);

/// Adds each row of `x` to the row of `to` that `rows` names.
void add_to_gathered(const Tensor& x, const Tensor& rows, Tensor& to);

[[nodiscard]] Tensor transpose(const Tensor& x, const Shape& shape);

/// Adds `more` to `total`, in place when no one else holds its numbers. Shapes are the same.
void add(Tensor& total, const Tensor& more);

}  // namespace lattice::kernels
