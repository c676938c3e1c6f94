#include "tensor/kernels.hpp"

#include <algorithm>

namespace lattice::kernels {
namespace {

template <class T>
using Matrix = Eigen::Matrix<T, Eigen::Dynamic, Eigen::Dynamic, Eigen::RowMajor>;

template <class T>
auto matrix(const Tensor& tensor) {
  return Eigen::Map<const Matrix<T>, Eigen::Aligned64>(tensor.data<T>(), tensor.shape()[0],
                                                       tensor.shape()[1]);
}

/// Some numbers side by side.
template <class T>
using Row = Eigen::Map<const Eigen::Array<T, Eigen::Dynamic, 1>>;

/// Up to so many multiplications a plain loop is faster than Eigen, which prepares for large ones.
constexpr std::int64_t most_small_products = 512;

/// A factor of a product: its numbers, and how far apart its rows and its columns are.
template <class T>
struct Factor {
  Factor(const Tensor& tensor, Turned turned)
      : numbers(tensor.data<T>()),
        row_step(turned == Turned::no ? tensor.shape()[1] : 1),
        column_step(turned == Turned::no ? 1 : tensor.shape()[1]) {}

  const T* numbers;
  std::int64_t row_step;
  std::int64_t column_step;
};

/// A matrix times a single column, whose numbers lie side by side. `fixed` is the depth where it is
/// known in advance, so that short sums are written out without a loop; else 0.
template <std::int64_t fixed, class T>
void times_column(const Factor<T>& a, const T* column, std::int64_t depth, T* __restrict to,
                  std::int64_t rows) {
  const std::int64_t count = fixed == 0 ? depth : fixed;
  const T* left = a.numbers;
  for (std::int64_t row = 0; row < rows; ++row, left += a.row_step) {
    T total{0};
    for (std::int64_t k = 0; k < count; ++k)
      total += left[k * a.column_step] * column[k];
    to[row] = total;
  }
}

template <class T>
void times_column(const Factor<T>& a, const T* column, std::int64_t depth, T* to,
                  std::int64_t rows) {
  switch (depth) {
    case 1:
      return times_column<1>(a, column, depth, to, rows);
    case 2:
      return times_column<2>(a, column, depth, to, rows);
    case 3:
      return times_column<3>(a, column, depth, to, rows);
    case 4:
      return times_column<4>(a, column, depth, to, rows);
    default:
      return times_column<0>(a, column, depth, to, rows);
  }
}

/// The product by the textbook, adding up over `depth` in order.
template <class T>
void small_product(const Factor<T>& a, const Factor<T>& b, std::int64_t depth, T* __restrict to,
                   std::int64_t rows, std::int64_t columns) {
  if (columns == 1) return times_column(a, b.numbers, depth, to, rows);
  std::fill_n(to, rows * columns, T{0});
  for (std::int64_t k = 0; k < depth; ++k) {
    const T* left = a.numbers + k * a.column_step;
    const T* const right = b.numbers + k * b.row_step;
    T* row_to = to;
    for (std::int64_t row = 0; row < rows; ++row, left += a.row_step, row_to += columns) {
      const T factor = *left;
      for (std::int64_t column = 0; column < columns; ++column) {
        row_to[column] += factor * right[column * b.column_step];
      }
    }
  }
}

/// The shape of what is left when the axes of a sum are kept with an extent of 1.
Shape kept(const Shape& shape, AxisSet axes) {
  std::array<std::int64_t, max_rank> extents{};
  for (int axis = 0; axis < shape.rank(); ++axis) {
    extents[static_cast<size_t>(axis)] = contains(axes, axis) ? 1 : shape[axis];
  }
  return Shape(std::span<const std::int64_t>(extents.data(), static_cast<size_t>(shape.rank())));
}

}  // namespace

Walk walk(const Shape& shape, const Shape& a, const Shape& b) {
  Walk steps;
  std::int64_t left_a = a.count();
  std::int64_t left_b = b.count();
  Walk backward;
  for (int axis = shape.rank() - 1, back = 0; axis >= 0; --axis, ++back) {
    const std::int64_t extent = shape[axis];
    if (extent == 1) continue;
    const int in_a = a.rank() - 1 - back;
    const int in_b = b.rank() - 1 - back;
    const bool walks_a = in_a >= 0 && a[in_a] != 1;
    const bool walks_b = in_b >= 0 && b[in_b] != 1;
    if (walks_a) left_a /= extent;
    if (walks_b) left_b /= extent;
    const auto last = static_cast<size_t>(backward.rank);
    if (last > 0 && (backward.step_a[last - 1] != 0) == walks_a &&
        (backward.step_b[last - 1] != 0) == walks_b) {
      backward.extents[last - 1] *= extent;
      continue;
    }
    backward.extents[last] = extent;
    backward.step_a[last] = walks_a ? a.count() / left_a / extent : 0;
    backward.step_b[last] = walks_b ? b.count() / left_b / extent : 0;
    ++backward.rank;
  }
  steps.rank = std::max(backward.rank, 1);
  steps.extents[0] = 1;
  for (int axis = 0; axis < backward.rank; ++axis) {
    const auto from = static_cast<size_t>(axis);
    const auto to = static_cast<size_t>(backward.rank - 1 - axis);
    steps.extents[to] = backward.extents[from];
    steps.step_a[to] = backward.step_a[from];
    steps.step_b[to] = backward.step_b[from];
  }
  return steps;
}

Tensor sum(const Tensor& x, AxisSet axes, const Shape& shape, double divisor) {
  Tensor result = Tensor::unfilled(shape, x.precision());
  if (shape.count() == 1) {
    visit(x.precision(), [&]<class T>(T) {
      *result.writable<T>() = Row<T>(x.data<T>(), x.count()).sum() / static_cast<T>(divisor);
    });
    return result;
  }
  const Walk steps = walk(x.shape(), x.shape(), kept(x.shape(), axes));
  const auto inner = static_cast<size_t>(steps.rank - 1);
  const std::int64_t width = steps.extents[inner];
  const bool adds_up = steps.step_b[inner] == 0;
  visit(x.precision(), [&]<class T>(T) {
    T* const to = result.writable<T>();
    std::fill_n(to, result.count(), T{0});
    each_row(steps, [&](std::int64_t offset, std::int64_t, std::int64_t place) {
      const T* const row = x.data<T>() + offset;
      if (adds_up) {
        to[place] += Row<T>(row, width).sum();
      } else {
        for (std::int64_t i = 0; i < width; ++i)
          to[place + i] += row[i];
      }
    });
    if (divisor != 1.0) whole<T>(result) /= static_cast<T>(divisor);
  });
  return result;
}

Tensor spread(const Tensor& x, AxisSet axes, const Shape& shape, double divisor) {
  Tensor result = Tensor::unfilled(shape, x.precision());
  visit(x.precision(), [&]<class T>(T) {
    const T by = static_cast<T>(divisor);
    if (x.count() == 1) {
      whole<T>(result).setConstant(*x.data<T>() / by);
      return;
    }
    const Walk steps = walk(shape, shape, kept(shape, axes));
    const auto inner = static_cast<size_t>(steps.rank - 1);
    T* const to = result.writable<T>();
    each_row(steps, [&](std::int64_t offset, std::int64_t, std::int64_t place) {
      const T* const from = x.data<T>() + place;
      for (std::int64_t i = 0; i < steps.extents[inner]; ++i) {
        to[offset + i] = from[i * steps.step_b[inner]] / by;
      }
    });
  });
  return result;
}

AxisSet stretched_axes(const Shape& shape, const Shape& stretched) {
  AxisSet axes = 0;
  const int missing = stretched.rank() - shape.rank();
  for (int axis = 0; axis < stretched.rank(); ++axis) {
    const bool is_stretched = axis < missing || (shape[axis - missing] == 1 && stretched[axis] > 1);
    if (is_stretched) axes |= 1U << axis;
  }
  return axes;
}

Tensor sum_stretched(const Tensor& x, const Shape& shape) {
  if (x.shape() == shape) return x;
  return sum(x, stretched_axes(shape, x.shape()), shape);
}

Tensor product(const Tensor& a, Turned a_turned, const Tensor& b, Turned b_turned,
               const Shape& shape) {
  Tensor result = Tensor::unfilled(shape, a.precision());
  const std::int64_t depth = a.shape()[a_turned == Turned::no ? 1 : 0];
  visit(a.precision(), [&]<class T>(T) {
    if (shape[0] * shape[1] * depth <= most_small_products) {
      const Factor<T> left(a, a_turned);
      const Factor<T> right(b, b_turned);
      small_product(left, right, depth, result.writable<T>(), shape[0], shape[1]);
      return;
    }
    Eigen::Map<Matrix<T>, Eigen::Aligned64> to(result.writable<T>(), shape[0], shape[1]);
    const auto left = matrix<T>(a);
    const auto right = matrix<T>(b);
    if (a_turned == Turned::no && b_turned == Turned::no) {
      to.noalias() = left * right;
    } else if (a_turned == Turned::yes && b_turned == Turned::no) {
      to.noalias() = left.transpose() * right;
    } else if (a_turned == Turned::no) {
      to.noalias() = left * right.transpose();
    } else {
      to.noalias() = left.transpose() * right.transpose();
    }
  });
  return result;
}

Tensor half_mean_squared(const Tensor& a, const Tensor& b) {
  Tensor result = Tensor::unfilled({}, a.precision());
  visit(a.precision(), [&]<class T>(T) {
    const Row<T> first(a.data<T>(), a.count());
    const Row<T> second(b.data<T>(), b.count());
    *result.writable<T>() = T{0.5} * ((first - second).square().sum() / static_cast<T>(a.count()));
  });
  return result;
}

void add_to_rows(Tensor& total, const Tensor& row) {
  visit(total.precision(), [&]<class T>(T) {
    if (row.count() == 1) {
      whole<T>(total) += *row.data<T>();
      return;
    }
    T* to = total.writable<T>();
    const T* const end = to + total.count();
    for (; to != end; to += row.count()) {
      for (std::int64_t i = 0; i < row.count(); ++i)
        to[i] += row.data<T>()[i];
    }
  });
}

Tensor transpose(const Tensor& x, const Shape& shape) {
  Tensor result = Tensor::unfilled(shape, x.precision());
  visit(x.precision(), [&]<class T>(T) {
    Eigen::Map<Matrix<T>, Eigen::Aligned64>(result.writable<T>(), shape[0], shape[1]) =
        matrix<T>(x).transpose();
  });
  return result;
}

void add(Tensor& total, const Tensor& more) {
  visit(total.precision(), [&]<class T>(T) { whole<T>(total) += whole<T>(more); });
}

}  // namespace lattice::kernels
