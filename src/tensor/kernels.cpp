#include "tensor/kernels.hpp"

#include <algorithm>
#include <cmath>
#include <limits>
#include <vector>

#include "tensor/parallel.hpp"

namespace lattice::kernels {
namespace {

template <class T>
using Matrix = Eigen::Matrix<T, Eigen::Dynamic, Eigen::Dynamic, Eigen::RowMajor>;

/// The numbers of a matrix side by side, row by row.
template <class T>
using ConstMatrix = Eigen::Map<const Matrix<T>>;

/// Some numbers side by side.
template <class T>
using Row = Eigen::Map<const Eigen::Array<T, Eigen::Dynamic, 1>>;

/// Up to so many multiplications a plain loop is faster than Eigen, which prepares for large ones.
constexpr std::int64_t most_small_products = 512;

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

/// Large products are cut into tiles of about so many rows and columns, each worked by one thread.
/// How they are cut depends on the size alone, so the number of threads never changes the bits.
constexpr std::int64_t tile = 512;

/// The positions 0 to `extent` − 1 in pieces of like size, about a tile each.
struct Pieces {
  explicit Pieces(std::int64_t extent_)
      : extent(extent_), count(std::max(extent / tile, std::int64_t{1})) {}

  [[nodiscard]] std::int64_t start(std::int64_t piece) const { return extent * piece / count; }
  [[nodiscard]] std::int64_t length(std::int64_t piece) const {
    return start(piece + 1) - start(piece);
  }

  std::int64_t extent;
  std::int64_t count;
};

/// The product with Eigen, tile by tile.
template <class T>
void large_product(const Factor<T>& a, const Factor<T>& b, T* numbers, std::int64_t rows,
                   std::int64_t columns) {
  Eigen::Map<Matrix<T>> to(numbers, rows, columns);
  const auto multiply = [&](const auto& left, const auto& right) {
    const Pieces down(rows);
    const Pieces across(columns);
    in_parallel(down.count * across.count, [&](std::int64_t number) {
      const std::int64_t i = number / across.count;
      const std::int64_t j = number % across.count;
      to.block(down.start(i), across.start(j), down.length(i), across.length(j)).noalias() =
          left.middleRows(down.start(i), down.length(i)) *
          right.middleCols(across.start(j), across.length(j));
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

Shape kept(const Shape& shape, AxisSet axes) {
  Shape result = shape;
  for (int axis = 0; axis < shape.rank(); ++axis) {
    if (contains(axes, axis)) result = result.with_extent(axis, 1);
  }
  return result;
}

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

namespace {

/// Goes through `x` in order and calls `meet(place, number, offset)` with the place among the
/// results along `axes`.
template <class T, class Meet>
void each_along(const Tensor& x, AxisSet axes, Meet meet) {
  const Walk steps = walk(x.shape(), x.shape(), kept(x.shape(), axes));
  const auto inner = static_cast<size_t>(steps.rank - 1);
  const std::int64_t step = steps.step_b[inner];
  each_row(steps, [&](std::int64_t offset, std::int64_t, std::int64_t place) {
    for (std::int64_t i = 0; i < steps.extents[inner]; ++i)
      meet(place + i * step, x.data<T>()[offset + i], offset + i);
  });
}

/// Where the first largest numbers along some axes stand in `x`; −1 while none was met.
template <class T>
std::vector<std::int64_t> offsets_of_largest(const Tensor& x, AxisSet axes, std::int64_t count) {
  std::vector<std::int64_t> best(static_cast<size_t>(count), -1);
  each_along<T>(x, axes, [&](std::int64_t place, T number, std::int64_t offset) {
    std::int64_t& leader = best[static_cast<size_t>(place)];
    if (leader < 0 || x.data<T>()[leader] < number) leader = offset;
  });
  return best;
}

}  // namespace

Tensor largest(const Tensor& x, AxisSet axes, const Shape& shape) {
  Tensor result = Tensor::unfilled(shape, x.precision());
  visit(x.precision(), [&]<class T>(T) {
    T* const to = result.writable<T>();
    std::fill_n(to, result.count(), -std::numeric_limits<T>::infinity());
    each_along<T>(x, axes, [&](std::int64_t place, T number, std::int64_t) {
      if (!(number <= to[place]) && !std::isnan(to[place])) to[place] = number;
    });
  });
  return result;
}

Tensor first_largest(const Tensor& x, AxisSet axes, const Shape& shape) {
  Tensor result = Tensor::unfilled(shape, x.precision());
  visit(x.precision(), [&]<class T>(T) {
    const std::vector<std::int64_t> best = offsets_of_largest<T>(x, axes, result.count());
    for (std::int64_t place = 0; place < result.count(); ++place) {
      const Index at = x.shape().index(best[static_cast<size_t>(place)]);
      std::int64_t position = 0;
      for (int axis = 0; axis < x.shape().rank(); ++axis) {
        if (contains(axes, axis)) position = position * x.shape()[axis] + at[axis];
      }
      result.writable<T>()[place] = static_cast<T>(position);
    }
  });
  return result;
}

Tensor to_first_largest(const Tensor& x, AxisSet axes, const Tensor& arrived) {
  Tensor result = Tensor::unfilled(x.shape(), x.precision());
  visit(x.precision(), [&]<class T>(T) {
    const std::vector<std::int64_t> best = offsets_of_largest<T>(x, axes, arrived.count());
    T* const to = result.writable<T>();
    std::fill_n(to, result.count(), T{0});
    for (size_t place = 0; place < best.size(); ++place)
      to[best[place]] = arrived.data<T>()[place];
  });
  return result;
}

Tensor exp_of_difference(const Tensor& x, const Tensor& y) {
  Tensor result = stretch(x.shape(), x, y, [](const auto& a, const auto& b) { return a - b; });
  change(result, [](const auto& difference) { return exp_of(difference); });
  return result;
}

Tensor log_sum_exp(const Tensor& x, AxisSet axes, const Shape& shape) {
  const Tensor most = largest(x, axes, kept(x.shape(), axes));
  const Tensor total = sum(exp_of_difference(x, most), axes, shape);
  return map(most.reshaped(shape), total,
             [](const auto& m, const auto& powers) { return m + log_of(powers); });
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
  visit(a.precision(), [&]<class T>(T) {
    const Factor<T> left(a, a_turned);
    const Factor<T> right(b, b_turned);
    const std::int64_t rows = shape[shape.rank() - 2];
    const std::int64_t columns = shape[shape.rank() - 1];
    const std::int64_t depth = left.turned ? left.rows : left.columns;
    const auto multiply = [&](const Factor<T>& first, const Factor<T>& second, T* to) {
      if (rows * columns * depth <= most_small_products) {
        small_product(first, second, depth, to, rows, columns);
      } else {
        large_product(first, second, to, rows, columns);
      }
    };
    T* const to = result.writable<T>();
    if (shape.rank() == 2) return multiply(left, right, to);

    const Walk steps = walk(batch_of(shape), batch_of(a.shape()), batch_of(b.shape()));
    const auto inner = static_cast<size_t>(steps.rank - 1);
    each_row(steps, [&](std::int64_t matrix, std::int64_t in_a, std::int64_t in_b) {
      for (std::int64_t i = 0; i < steps.extents[inner]; ++i) {
        Factor<T> first = left;
        Factor<T> second = right;
        first.numbers += (in_a + i * steps.step_a[inner]) * left.rows * left.columns;
        second.numbers += (in_b + i * steps.step_b[inner]) * right.rows * right.columns;
        multiply(first, second, to + (matrix + i) * rows * columns);
      }
    });
  });
  return result;
}

Tensor sparse_product(const Tensor& entries, Turned turned, const Tensor& b, const Shape& shape) {
  Tensor result = Tensor::unfilled(shape, b.precision());
  visit(b.precision(), [&]<class T>(T) {
    T* const to = result.writable<T>();
    std::fill_n(to, result.count(), T{0});
    const std::int64_t width = shape[1];
    const T* const end = entries.data<T>() + entries.count();
    for (const T* entry = entries.data<T>(); entry != end; entry += 3) {
      const auto row = static_cast<std::int64_t>(entry[turned == Turned::no ? 0 : 1]);
      const auto column = static_cast<std::int64_t>(entry[turned == Turned::no ? 1 : 0]);
      T* const row_to = to + row * width;
      const T* const from = b.data<T>() + column * width;
      for (std::int64_t i = 0; i < width; ++i)
        row_to[i] += entry[2] * from[i];
    }
  });
  return result;
}

namespace {

/// For each row of scores: exp(score − largest) of every score, and the largest.
template <class T>
struct Powers {
  explicit Powers(const Tensor& scores)
      : rows(scores.shape()[0]),
        width(scores.shape()[1]),
        numbers(Tensor::unfilled(scores.shape(), scores.precision())),
        largest(Tensor::unfilled({rows}, scores.precision())) {
    T* const to = numbers.writable<T>();
    for (std::int64_t row = 0; row < rows; ++row) {
      const T* const from = scores.data<T>() + row * width;
      T most = from[0];
      for (std::int64_t i = 1; i < width; ++i)
        most = from[i] <= most ? most : from[i];
      for (std::int64_t i = 0; i < width; ++i)
        to[row * width + i] = from[i] - most;
      largest.writable<T>()[row] = most;
    }
    change(numbers, [](const auto& difference) { return exp_of(difference); });
  }

  [[nodiscard]] T total(std::int64_t row) const {
    T total{0};
    for (std::int64_t i = 0; i < width; ++i)
      total += numbers.data<T>()[row * width + i];
    return total;
  }

  std::int64_t rows;
  std::int64_t width;
  Tensor numbers;
  Tensor largest;
};

}  // namespace

Tensor cross_entropy(const Tensor& scores, const Tensor& classes, const Tensor& shares) {
  Tensor result = Tensor::unfilled({}, scores.precision());
  visit(scores.precision(), [&]<class T>(T) {
    const Powers<T> powers(scores);
    Tensor logs = Tensor::unfilled({powers.rows}, scores.precision());
    for (std::int64_t row = 0; row < powers.rows; ++row)
      logs.writable<T>()[row] = powers.total(row);
    change(logs, [](const auto& total) { return log_of(total); });
    T sum{0};
    for (std::int64_t row = 0; row < powers.rows; ++row) {
      const auto column = static_cast<std::int64_t>(classes.data<T>()[row]);
      const T surprise = powers.largest.template data<T>()[row] + logs.data<T>()[row] -
                         scores.data<T>()[row * powers.width + column];
      sum += shares.empty() ? surprise : shares.data<T>()[row] * surprise;
    }
    *result.writable<T>() = shares.empty() ? sum / static_cast<T>(powers.rows) : sum;
  });
  return result;
}

Tensor cross_entropy_slope(const Tensor& scores, const Tensor& classes, const Tensor& shares,
                           double arrived) {
  return visit(scores.precision(), [&]<class T>(T) {
    Powers<T> powers(scores);
    T* const to = powers.numbers.template writable<T>();
    for (std::int64_t row = 0; row < powers.rows; ++row) {
      const T share = static_cast<T>(arrived) *
                      (shares.empty() ? T{1} / static_cast<T>(powers.rows) : shares.data<T>()[row]);
      const T factor = share / powers.total(row);
      for (std::int64_t i = 0; i < powers.width; ++i)
        to[row * powers.width + i] *= factor;
      to[row * powers.width + static_cast<std::int64_t>(classes.data<T>()[row])] -= share;
    }
    return std::move(powers.numbers);
  });
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

Tensor filled(const Shape& shape, Precision precision, double number) {
  Tensor result = Tensor::unfilled(shape, precision);
  visit(precision, [&]<class T>(T) { whole<T>(result).setConstant(static_cast<T>(number)); });
  return result;
}

namespace {

/// Calls `row(from, to)` with the offsets where each innermost row of a block starts.
template <class Row>
void each_row_of(const Block& block, Row row) {
  std::array<std::int64_t, max_rank> at{};
  std::int64_t from = block.from_start;
  std::int64_t to = block.to_start;
  for (;;) {
    row(from, to);
    int axis = block.rank - 2;
    for (; axis >= 0; --axis) {
      const auto a = static_cast<size_t>(axis);
      from += block.from_step[a];
      to += block.to_step[a];
      if (++at[a] < block.extents[a]) break;
      from -= block.from_step[a] * block.extents[a];
      to -= block.to_step[a] * block.extents[a];
      at[a] = 0;
    }
    if (axis < 0) return;
  }
}

/// The innermost axis of a block.
struct Innermost {
  explicit Innermost(const Block& block) {
    if (block.rank == 0) return;
    const auto last = static_cast<size_t>(block.rank - 1);
    extent = block.extents[last];
    from_step = block.from_step[last];
    to_step = block.to_step[last];
  }

  std::int64_t extent = 1;
  std::int64_t from_step = 1;
  std::int64_t to_step = 1;
};

}  // namespace

void copy(const Tensor& from, Tensor& to, const Block& block) {
  const Innermost inner(block);
  visit(from.precision(), [&]<class T>(T) {
    T* const numbers = to.writable<T>();
    each_row_of(block, [&](std::int64_t source, std::int64_t target) {
      for (std::int64_t i = 0; i < inner.extent; ++i)
        numbers[target + i * inner.to_step] = from.data<T>()[source + i * inner.from_step];
    });
  });
}

void add_back(const Tensor& result, Tensor& from, const Block& block) {
  const Innermost inner(block);
  visit(from.precision(), [&]<class T>(T) {
    T* const numbers = from.writable<T>();
    each_row_of(block, [&](std::int64_t source, std::int64_t target) {
      for (std::int64_t i = 0; i < inner.extent; ++i)
        numbers[source + i * inner.from_step] += result.data<T>()[target + i * inner.to_step];
    });
  });
}

Tensor pick(const Tensor& x, const Tensor& columns, const Shape& shape) {
  Tensor result = Tensor::unfilled(shape, x.precision());
  visit(x.precision(), [&]<class T>(T) {
    const std::int64_t width = x.shape()[x.shape().rank() - 1];
    for (std::int64_t row = 0; row < result.count(); ++row) {
      const auto column = static_cast<std::int64_t>(columns.data<T>()[row]);
      result.writable<T>()[row] = x.data<T>()[row * width + column];
    }
  });
  return result;
}

void put_picked(const Tensor& x, const Tensor& columns, Tensor& to) {
  visit(x.precision(), [&]<class T>(T) {
    const std::int64_t width = to.shape()[to.shape().rank() - 1];
    for (std::int64_t row = 0; row < x.count(); ++row) {
      const auto column = static_cast<std::int64_t>(columns.data<T>()[row]);
      to.writable<T>()[row * width + column] = x.data<T>()[row];
    }
  });
}

Tensor gather_rows(const Tensor& x, const Tensor& rows, const Shape& shape) {
  Tensor result = Tensor::unfilled(shape, x.precision());
  visit(x.precision(), [&]<class T>(T) {
    const std::int64_t width = x.count() / x.shape()[0];
    T* to = result.writable<T>();
    for (std::int64_t i = 0; i < rows.count(); ++i) {
      const auto row = static_cast<std::int64_t>(rows.data<T>()[i]);
      to = std::copy_n(x.data<T>() + row * width, width, to);
    }
  });
  return result;
}

void add_to_gathered(const Tensor& x, const Tensor& rows, Tensor& to) {
  visit(x.precision(), [&]<class T>(T) {
    const std::int64_t width = to.count() / to.shape()[0];
    for (std::int64_t i = 0; i < rows.count(); ++i) {
      T* const row = to.writable<T>() + static_cast<std::int64_t>(rows.data<T>()[i]) * width;
      for (std::int64_t k = 0; k < width; ++k)
        row[k] += x.data<T>()[i * width + k];
    }
  });
}

Tensor transpose(const Tensor& x, const Shape& shape) {
  Tensor result = Tensor::unfilled(shape, x.precision());
  visit(x.precision(), [&]<class T>(T) {
    Eigen::Map<Matrix<T>, Eigen::Aligned64>(result.writable<T>(), shape[0], shape[1]) =
        ConstMatrix<T>(x.data<T>(), shape[1], shape[0]).transpose();
  });
  return result;
}

void add(Tensor& total, const Tensor& more) {
  visit(total.precision(), [&]<class T>(T) { whole<T>(total) += whole<T>(more); });
}

}  // namespace lattice::kernels
