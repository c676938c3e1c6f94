#include "tensor/kernels.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <functional>
#include <limits>
#include <vector>

#include "tensor/array_kernels.hpp"
#include "tensor/parallel.hpp"
#include "tensor/short_rows.hpp"
#include "tensor/sparse_kernels.hpp"
#include "tensor/walk.hpp"

namespace lattice::kernels {
namespace {

/// Some numbers side by side.
template <class T>
using Row = Eigen::Map<const Eigen::Array<T, Eigen::Dynamic, 1>>;

}  // namespace

Shape kept(const Shape& shape, AxisSet axes) {
  Shape result = shape;
  for (int axis = 0; axis < shape.rank(); ++axis) {
    if (contains(axes, axis)) result = result.with_extent(axis, 1);
  }
  return result;
}

namespace {

/// `count / by`, both above 0: in 32 bits where they fit, which takes a third of the time.
std::int64_t quotient(std::int64_t count, std::int64_t by) {
  constexpr std::int64_t most = std::numeric_limits<std::uint32_t>::max();
  if (count > most || by > most) return count / by;
  return static_cast<std::uint32_t>(count) / static_cast<std::uint32_t>(by);
}

/// Adds up rows that lie one under another. Some of them side by side are one wide row, so that
/// sums do not wait for each other.
template <class T>
void add_rows(const T* row, std::int64_t rows, std::int64_t width, T* to) {
  using Sums = Eigen::Map<Eigen::Array<T, Eigen::Dynamic, 1>>;
  constexpr std::int64_t most = 64;
  const std::int64_t together = width >= most ? 1 : quotient(most, width);
  if (rows < 16 * together && width <= longest_short_row) {
    with_short_length(width, [&](auto length) {
      using Short = Eigen::Array<T, static_cast<int>(length), 1>;
      Short sums = Short::Zero();
      for (std::int64_t at = 0; at < rows; ++at)
        sums += Eigen::Map<const Short>(row + at * length);
      Eigen::Map<Short>{to} = sums;
    });
    return;
  }
  Sums sums(to, width);
  sums.setZero();
  if (rows >= 16 * together && together > 1) {
    std::array<T, static_cast<std::size_t>(most)> places;
    const std::int64_t wide = together * width;
    Sums wide_sums(places.data(), wide);
    wide_sums = Row<T>(row, wide);
    for (row += wide, rows -= together; rows >= together; row += wide, rows -= together)
      wide_sums += Row<T>(row, wide);
    for (std::int64_t place = 0; place < wide; place += width)
      sums += Row<T>(places.data() + place, width);
  }
  for (; rows > 0; row += width, --rows)
    sums += Row<T>(row, width);
}

/// The sum over the first axes, which leaves rows as long as the result: the gradient of a bias.
/// Rows are dealt into groups with sums of their own, whatever the threads are.
Tensor sum_of_rows(const Tensor& x, Tensor result, double divisor) {
  constexpr std::int64_t numbers_a_group = 1 << 14;
  const std::int64_t width = result.count();
  const std::int64_t rows = quotient(x.count(), width);
  visit(x.precision(), [&]<class T>(T) {
    const T* const from = x.data<T>();
    T* const to = result.writable<T>();
    if (x.count() <= numbers_a_group) {
      add_rows(from, rows, width, to);
    } else {
      const std::int64_t a_group = std::max(numbers_a_group / width, std::int64_t{1});
      const std::int64_t groups = (rows + a_group - 1) / a_group;
      Tensor sums = Tensor::unfilled(Shape{groups * width}, x.precision());
      T* const of_groups = sums.writable<T>();
      in_parallel(groups, x.count() * multiplications_a_number, [&](std::int64_t group) {
        const std::int64_t first = group * a_group;
        add_rows(from + first * width, std::min(a_group, rows - first), width,
                 of_groups + group * width);
      });
      add_rows(of_groups, groups, width, to);
    }
    if (divisor != 1.0) whole<T>(result) /= static_cast<T>(divisor);
  });
  return result;
}

}  // namespace

namespace {

/// The sum of numbers side by side, in an order that does not depend on where they stand.
template <class T>
T sum_of_row(const T* numbers, std::int64_t count) {
  using Lanes = Eigen::Array<T, chunk_size<T>, 1>;
  Lanes lanes = Lanes::Zero();
  std::int64_t at = 0;
  for (; at + chunk_size<T> <= count; at += chunk_size<T>)
    lanes += Eigen::Map<const Lanes>(numbers + at);
  T total = at == 0 ? T{0} : lanes.sum();
  for (; at < count; ++at)
    total += numbers[at];
  return total;
}

}  // namespace

Tensor sum(const Tensor& x, AxisSet axes, const Shape& shape, double divisor) {
  if (x.is_sparse() && axes != 0) return sparse_sum(x, axes, shape, divisor);
  Tensor result = Tensor::unfilled(shape, x.precision());
  if (shape.count() == 1) {
    visit(x.precision(), [&]<class T>(T) {
      *result.writable<T>() = Row<T>(x.data<T>(), x.count()).sum() / static_cast<T>(divisor);
    });
    return result;
  }
  if ((axes & (axes + 1)) == 0) return sum_of_rows(x, std::move(result), divisor);
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
        to[place] += sum_of_row(row, width);
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

/// Calls with the comparison that says whether a first number is less far out than a second.
template <class Call>
auto with_comparison(End end, Call call) {
  return end == End::largest ? call(std::less<>()) : call(std::greater<>());
}

/// Where the first outermost numbers along some axes stand in `x`.
template <class T>
std::vector<std::int64_t> offsets_of_outermost(End end, const Tensor& x, AxisSet axes,
                                               std::int64_t count) {
  std::vector<std::int64_t> best(static_cast<size_t>(count), -1);
  with_comparison(end, [&](auto is_less_far) {
    each_along<T>(x, axes, [&](std::int64_t place, T number, std::int64_t offset) {
      std::int64_t& leader = best[static_cast<size_t>(place)];
      if (leader < 0 || is_less_far(x.data<T>()[leader], number)) leader = offset;
    });
  });
  return best;
}

}  // namespace

Tensor outermost(End end, const Tensor& x, AxisSet axes, const Shape& shape) {
  Tensor result = Tensor::unfilled(shape, x.precision());
  visit(x.precision(), [&]<class T>(T) {
    T* const to = result.writable<T>();
    const T infinity = std::numeric_limits<T>::infinity();
    std::fill_n(to, result.count(), end == End::largest ? -infinity : infinity);
    with_comparison(end, [&](auto is_less_far) {
      each_along<T>(x, axes, [&](std::int64_t place, T number, std::int64_t) {
        const bool is_farther = is_less_far(to[place], number) || std::isnan(number);
        if (is_farther && !std::isnan(to[place])) to[place] = number;
      });
    });
  });
  return result;
}

namespace {

/// The place of the first largest number of each row; rows lie one after another.
template <class T>
void first_largest_of_rows(const T* from, std::int64_t rows, std::int64_t width, T* to) {
  with_length(width, [&](auto length) {
    for (std::int64_t row = 0; row < rows; ++row, from += length) {
      T most = from[0];
      T place{0};
      for (std::int64_t i = 1; i < length; ++i) {
        const bool is_more = most < from[i];
        most = is_more ? from[i] : most;
        place = is_more ? static_cast<T>(i) : place;
      }
      to[row] = place;
    }
  });
}

}  // namespace

Tensor first_largest(const Tensor& x, AxisSet axes, const Shape& shape) {
  Tensor result = Tensor::unfilled(shape, x.precision());
  visit(x.precision(), [&]<class T>(T) {
    const int last = x.shape().rank() - 1;
    if (last >= 0 && axes == 1U << last) {
      const std::int64_t width = x.shape()[last];
      first_largest_of_rows(x.data<T>(), result.count(), width, result.writable<T>());
      return;
    }
    const std::vector<std::int64_t> best =
        offsets_of_outermost<T>(End::largest, x, axes, result.count());
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

Tensor to_first_outermost(End end, const Tensor& x, AxisSet axes, const Tensor& gradient) {
  Tensor result = Tensor::unfilled(x.shape(), x.precision());
  visit(x.precision(), [&]<class T>(T) {
    const std::vector<std::int64_t> best = offsets_of_outermost<T>(end, x, axes, gradient.count());
    T* const to = result.writable<T>();
    std::fill_n(to, result.count(), T{0});
    for (size_t place = 0; place < best.size(); ++place)
      to[best[place]] = gradient.data<T>()[place];
  });
  return result;
}

Tensor exp_of_difference(const Tensor& x, const Tensor& y) {
  Tensor result = stretch(x.shape(), x, y, [](const auto& a, const auto& b) { return a - b; });
  change(result, [](const auto& difference) { return exp_of(difference); });
  return result;
}

LogTotal log_total(const Tensor& x, AxisSet axes, const Shape& shape) {
  const Tensor most = largest(x, axes, kept(x.shape(), axes));
  const Tensor differences =
      stretch(x.shape(), x, most, [](const auto& a, const auto& b) { return a - b; });
  const Tensor ones = sum(map(differences,
                              [](const auto& d) {
                                using T = typename std::decay_t<decltype(d)>::Scalar;
                                return (d == T{0}).template cast<T>();
                              }),
                          axes, shape);
  const Tensor others = sum(map(differences,
                                [](const auto& d) {
                                  using T = typename std::decay_t<decltype(d)>::Scalar;
                                  return (d != T{0}).template cast<T>() * exp_of(d);
                                }),
                            axes, shape);
  // The first 1 is that of log(1 + …).
  const auto logarithm = [](const auto& n, const auto& rest) { return log1p_of((n - 1) + rest); };
  return {.largest = most.reshaped(shape), .logarithm = map(ones, logarithm, others)};
}

Tensor broadcast_back(const Tensor& x, AxisSet axes, const Shape& shape, double divisor) {
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

Tensor filled(const Shape& shape, Precision precision, double number) {
  Tensor result = Tensor::unfilled(shape, precision);
  visit(precision, [&]<class T>(T) { whole<T>(result).setConstant(static_cast<T>(number)); });
  return result;
}

void add(Tensor& total, const Tensor& more) {
  visit(total.precision(), [&]<class T>(T) {
    T* const to = total.writable<T>();
    in_pieces(padded<T>(total.count()), [&](std::int64_t start, std::int64_t length) {
      using Piece = Eigen::Map<Eigen::Array<T, Eigen::Dynamic, 1>>;
      Piece(to + start, length) += Row<T>(more.data<T>() + start, length);
    });
  });
}

}  // namespace lattice::kernels
