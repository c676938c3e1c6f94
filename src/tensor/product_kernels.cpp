#include <Eigen/Core>
#include <algorithm>
#include <array>
#include <utility>

#include "tensor/kernels.hpp"
#include "tensor/parallel.hpp"
#include "tensor/short_rows.hpp"
#include "tensor/sparse_kernels.hpp"
#include "tensor/visit.hpp"
#include "tensor/walk.hpp"

namespace lattice::kernels {
namespace {

template <class T>
using Matrix = Eigen::Matrix<T, Eigen::Dynamic, Eigen::Dynamic, Eigen::RowMajor>;

/// The numbers of a matrix side by side, row by row.
template <class T>
using ConstMatrix = Eigen::Map<const Matrix<T>>;

/// Up to so many multiplications a row a plain loop is faster than Eigen, which prepares for large
/// products; and so it is for few columns and a short depth, where a row of the result is kept in
/// registers. How a row is worked does not depend on how many there are, as long as they are whole
/// eights: an example gives the same bits whichever come with it.
constexpr std::int64_t most_small_products = 32;
constexpr std::int64_t most_narrow_depth = 32;
constexpr std::int64_t deepest_column = 16;

/// A factor of a product: a matrix as it lies in memory, and whether it is taken turned.
template <class T>
struct Factor {
  Factor(const Tensor& tensor, Turned turned_)
      : numbers(tensor.data<T>()),
        rows(tensor.shape()[tensor.shape().rank() - 2]),
        columns(tensor.shape()[tensor.shape().rank() - 1]),
        turned(turned_ == Turned::yes),
        row_step(turned ? 1 : columns),
        column_step(turned ? columns : 1) {}

  [[nodiscard]] ConstMatrix<T> matrix() const { return {numbers, rows, columns}; }

  const T* numbers;
  std::int64_t rows;
  std::int64_t columns;
  bool turned;
  std::int64_t row_step;
  std::int64_t column_step;
};

/// A matrix times a single column, whose numbers lie side by side. `fixed` is the depth where it is
/// known in advance, so that short sums are written out without a loop; else 0.
template <std::int64_t fixed, class T>
void times_column(const Factor<T>& a, const T* column, std::int64_t depth, T* __restrict to,
                  std::int64_t rows, const T* bias) {
  const std::int64_t count = fixed == 0 ? depth : fixed;
  const T* left = a.numbers;
  for (std::int64_t row = 0; row < rows; ++row, left += a.row_step) {
    T total{0};
    for (std::int64_t k = 0; k < count; ++k)
      total += left[k * a.column_step] * column[k];
    to[row] = bias == nullptr ? total : total + *bias;
  }
}

template <class T>
void times_column(const Factor<T>& a, const T* column, std::int64_t depth, T* to, std::int64_t rows,
                  const T* bias) {
  switch (depth) {
    case 1:
      return times_column<1>(a, column, depth, to, rows, bias);
    case 2:
      return times_column<2>(a, column, depth, to, rows, bias);
    case 3:
      return times_column<3>(a, column, depth, to, rows, bias);
    case 4:
      return times_column<4>(a, column, depth, to, rows, bias);
    default:
      return times_column<0>(a, column, depth, to, rows, bias);
  }
}

/// Some rows of a product of few columns: each is added up in registers, over `depth` in order, and
/// last the bias where there is one. Several together do not wait for each other's sums.
template <std::size_t together, std::int64_t columns, class T>
void narrow_rows(const Factor<T>& a, const T* right, std::int64_t depth, std::int64_t row, T* to,
                 const T* bias) {
  using Row = Eigen::Array<T, static_cast<int>(columns), 1>;
  std::array<Row, together> totals;
  totals.fill(Row::Zero());
  const T* left = a.numbers + row * a.row_step;
  for (std::int64_t k = 0; k < depth; ++k, left += a.column_step, right += columns) {
    const Row from = Eigen::Map<const Row>(right);
    const T* factor = left;
    for (Row& total : totals) {
      total += *factor * from;
      factor += a.row_step;
    }
  }
  for (Row& total : totals) {
    if (bias != nullptr) total += Eigen::Map<const Row>(bias);
    Eigen::Map<Row>{to} = total;
    to += columns;
  }
}

/// A product of few columns. The right factor lies row by row.
template <std::int64_t columns, class T>
void narrow_product(const Factor<T>& a, const T* right, std::int64_t depth, T* to,
                    std::int64_t rows, const T* bias) {
  constexpr std::int64_t together = 4;
  std::int64_t row = 0;
  for (; row + together <= rows; row += together)
    narrow_rows<together, columns>(a, right, depth, row, to + row * columns, bias);
  for (; row < rows; ++row)
    narrow_rows<1, columns>(a, right, depth, row, to + row * columns, bias);
}

template <class T>
void narrow_product(const Factor<T>& a, const Factor<T>& b, std::int64_t depth, T* to,
                    std::int64_t rows, std::int64_t columns, const T* bias) {
  std::array<T, longest_short_row * most_narrow_depth> turned;
  with_short_length(columns, [&](auto width) {
    const T* right = b.numbers;
    if (b.turned) {
      right = turned.data();
      for (std::int64_t k = 0; k < depth; ++k) {
        for (std::int64_t column = 0; column < width; ++column)
          turned[static_cast<std::size_t>(k * width + column)] = b.numbers[column * depth + k];
      }
    }
    narrow_product<width>(a, right, depth, to, rows, bias);
  });
}

/// Adds a bias to rows of `columns` numbers, each `step` after the other.
template <class T>
void add_bias(T* to, std::int64_t rows, std::int64_t columns, std::int64_t step, const T* bias) {
  using Row = Eigen::Array<T, Eigen::Dynamic, 1>;
  const Eigen::Map<const Row> numbers(bias, columns);
  for (std::int64_t row = 0; row < rows; ++row, to += step)
    Eigen::Map<Row>(to, columns) += numbers;
}

/// The product by the textbook, adding up over `depth` in order.
template <class T>
void small_product(const Factor<T>& a, const Factor<T>& b, std::int64_t depth, T* __restrict to,
                   std::int64_t rows, std::int64_t columns, const T* bias) {
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
  if (bias != nullptr) add_bias(to, rows, columns, columns, bias);
}

/// Large products are cut into tiles of about so many rows and columns, each worked by one thread.
/// How they are cut depends on the size alone, so the number of threads never changes the bits.
constexpr std::int64_t tile = 512;

/// The positions 0 to `extent` − 1 in pieces of like size, about a tile each.
struct Pieces {
  explicit Pieces(std::int64_t extent_)
      : extent(extent_), count(std::max(extent / tile, std::int64_t{1})) {}

  /// In whole eights, which are worked alike: what is left over in Eigen is worked in another way.
  [[nodiscard]] std::int64_t start(std::int64_t piece) const {
    return piece == count ? extent : extent * piece / count / 8 * 8;
  }
  [[nodiscard]] std::int64_t length(std::int64_t piece) const {
    return start(piece + 1) - start(piece);
  }

  std::int64_t extent;
  std::int64_t count;
};

/// The product with Eigen, tile by tile.
template <class T>
void large_product(const Factor<T>& a, const Factor<T>& b, T* numbers, std::int64_t rows,
                   std::int64_t columns, const T* bias) {
  Eigen::Map<Matrix<T>> to(numbers, rows, columns);
  const auto multiply = [&](const auto& left, const auto& right) {
    const Pieces down(rows);
    const Pieces across(columns);
    const std::int64_t multiplications = rows * columns * left.cols();
    in_parallel(down.count * across.count, multiplications, [&](std::int64_t number) {
      const std::int64_t i = number / across.count;
      const std::int64_t j = number % across.count;
      to.block(down.start(i), across.start(j), down.length(i), across.length(j)).noalias() =
          left.middleRows(down.start(i), down.length(i)) *
          right.middleCols(across.start(j), across.length(j));
      if (bias == nullptr) return;
      add_bias(numbers + down.start(i) * columns + across.start(j), down.length(i),
               across.length(j), columns, bias + across.start(j));
    });
  };
  const auto left = a.matrix();
  const auto right = b.matrix();
  if (a.turned && b.turned) {
    multiply(left.transpose(), right.transpose());
  } else if (a.turned) {
    multiply(left.transpose(), right);
  } else if (b.turned) {
    multiply(left, right.transpose());
  } else {
    multiply(left, right);
  }
}

/// The axes of a batch of matrices: all but the last two.
Shape batch_of(const Shape& shape) {
  std::array<std::int64_t, max_rank> extents{};
  const int rank = shape.rank() - 2;
  for (int axis = 0; axis < rank; ++axis)
    extents[static_cast<size_t>(axis)] = shape[axis];
  return Shape(std::span<const std::int64_t>(extents.data(), static_cast<size_t>(rank)));
}

}  // namespace

namespace {

/// The product of two matrices, and a bias for each row of it where that is not null, in the way
/// that is quickest for their size.
template <class T>
void multiply(const Factor<T>& a, const Factor<T>& b, T* to, std::int64_t rows,
              std::int64_t columns, const T* bias) {
  const std::int64_t depth = a.turned ? a.rows : a.columns;
  const bool is_column = columns == 1;
  const bool is_short = is_column && depth <= deepest_column;
  if (is_short && bias == nullptr && a.turned && !b.turned && rows <= longest_short_row) {
    // As one row times a matrix that lies row by row: its sums do not wait for each other.
    with_short_length(rows,
                      [&](auto width) { narrow_rows<1, width>(b, a.numbers, depth, 0, to, bias); });
  } else if (is_short) {
    times_column(a, b.numbers, depth, to, rows, bias);
  } else if (!is_column && columns <= longest_short_row && depth <= most_narrow_depth) {
    narrow_product(a, b, depth, to, rows, columns, bias);
  } else if (!is_column && columns * depth <= most_small_products) {
    small_product(a, b, depth, to, rows, columns, bias);
  } else {
    large_product(a, b, to, rows, columns, bias);
  }
}

}  // namespace

Tensor product(const Tensor& a, Turned a_turned, const Tensor& b, Turned b_turned,
               const Shape& shape) {
  const bool is_of_matrices = a.shape().rank() == 2 && b.shape().rank() == 2;
  if (a.is_sparse() && is_of_matrices && b_turned == Turned::no)
    return sparse_product(a, a_turned, b, shape);
  Tensor result = Tensor::unfilled(shape, a.precision());
  visit(a.precision(), [&]<class T>(T) {
    const Factor<T> left(a, a_turned);
    const Factor<T> right(b, b_turned);
    const std::int64_t rows = shape[shape.rank() - 2];
    const std::int64_t columns = shape[shape.rank() - 1];
    const T* const no_bias = nullptr;
    T* const to = result.writable<T>();
    if (shape.rank() == 2) return multiply(left, right, to, rows, columns, no_bias);

    const Walk steps = walk(batch_of(shape), batch_of(a.shape()), batch_of(b.shape()));
    const auto inner = static_cast<size_t>(steps.rank - 1);
    each_row(steps, [&](std::int64_t matrix, std::int64_t in_a, std::int64_t in_b) {
      for (std::int64_t i = 0; i < steps.extents[inner]; ++i) {
        Factor<T> first = left;
        Factor<T> second = right;
        first.numbers += (in_a + i * steps.step_a[inner]) * left.rows * left.columns;
        second.numbers += (in_b + i * steps.step_b[inner]) * right.rows * right.columns;
        multiply(first, second, to + (matrix + i) * rows * columns, rows, columns, no_bias);
      }
    });
  });
  return result;
}

Tensor product_and_bias(const Tensor& x, const Tensor& W, const Tensor& b, const Shape& shape) {
  Tensor result = x.is_sparse() ? sparse_product(x, Turned::no, W, shape)
                                : Tensor::unfilled(shape, x.precision());
  visit(x.precision(), [&]<class T>(T) {
    T* const to = result.writable<T>();
    const T* const bias = b.data<T>();
    if (x.is_sparse()) return add_bias(to, shape[0], shape[1], shape[1], bias);
    multiply(Factor<T>(x, Turned::no), Factor<T>(W, Turned::no), to, shape[0], shape[1], bias);
  });
  return result;
}

Tensor transpose(const Tensor& x, const Shape& shape) {
  Tensor result = Tensor::unfilled(shape, x.precision());
  visit(x.precision(), [&]<class T>(T) {
    Eigen::Map<Matrix<T>, Eigen::Aligned64>(result.writable<T>(), shape[0], shape[1]) =
        ConstMatrix<T>(x.data<T>(), shape[1], shape[0]).transpose();
  });
  return result;
}

}  // namespace lattice::kernels
