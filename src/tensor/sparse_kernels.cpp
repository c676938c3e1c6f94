#include "tensor/sparse_kernels.hpp"

#include <algorithm>
#include <utility>

#include "tensor/lanes.hpp"
#include "tensor/parallel.hpp"
#include "tensor/sparse_numbers.hpp"
#include "tensor/visit.hpp"

namespace lattice::kernels {
namespace {

/// The stored entries of a matrix row by row, or of the turned one: then `from` says where the
/// number of a place is found.
template <class T>
struct Rows {
  const std::int64_t* starts;
  const std::int32_t* places;
  const std::int32_t* from;  ///< null where they lie in order
  const T* numbers;

  Rows(const SparseNumbers& matrix, Turned turned)
      : from(nullptr), numbers(matrix.values().data<T>()) {
    const Pattern* pattern = &matrix.pattern();
    if (turned == Turned::yes) {
      const Pattern::Turned& other = pattern->turned();
      pattern = other.pattern.get();
      from = other.from.data();
    }
    starts = pattern->starts();
    places = pattern->places();
  }

  [[nodiscard]] T number(std::int64_t at) const {
    return from == nullptr ? numbers[at] : numbers[from[at]];
  }
};

/// A few columns of a row of the product, kept in registers while the places of the row are gone
/// through.
template <int lanes, class T>
void columns_of_row(const Rows<T>& a, std::int64_t row, const T* b, std::int64_t width, T* to) {
  Lanes<T, lanes> sum{};
  for (std::int64_t at = a.starts[row]; at < a.starts[row + 1]; ++at) {
    Lanes<T, lanes> numbers;
    load<lanes>(numbers, b + a.places[at] * width);
    sum += a.number(at) * numbers;
  }
  store<lanes>(to, sum);
}

/// The same where two such pieces are as wide as the row: many a part has so many units.
template <class T>
void two_pieces_of_row(const Rows<T>& a, std::int64_t row, const T* b, std::int64_t width, T* to) {
  constexpr int lanes = most_lanes<T>;
  Lanes<T, lanes> first{};
  Lanes<T, lanes> second{};
  for (std::int64_t at = a.starts[row]; at < a.starts[row + 1]; ++at) {
    const T* const row_of_b = b + a.places[at] * width;
    Lanes<T, lanes> numbers;
    load<lanes>(numbers, row_of_b);
    first += a.number(at) * numbers;
    load<lanes>(numbers, row_of_b + lanes);
    second += a.number(at) * numbers;
  }
  store<lanes>(to, first);
  store<lanes>(to + lanes, second);
}

/// How many rows a thread takes at a time.
constexpr std::int64_t rows_a_piece = 256;

template <class T>
void multiply(const Rows<T>& a, std::int64_t rows, const T* b, std::int64_t width, T* to) {
  const std::int64_t pieces = (rows + rows_a_piece - 1) / rows_a_piece;
  in_parallel(pieces, a.starts[rows] * width, [&](std::int64_t piece) {
    const std::int64_t end = std::min((piece + 1) * rows_a_piece, rows);
    for (std::int64_t row = piece * rows_a_piece; row < end; ++row) {
      T* const row_to = to + row * width;
      std::int64_t column = 0;
      for (; width - column >= 2 * most_lanes<T>; column += 2 * most_lanes<T>)
        two_pieces_of_row(a, row, b + column, width, row_to + column);
      in_lanes<T>(
          width,
          [&]<int lanes>(std::int64_t first) {
            columns_of_row<lanes>(a, row, b + first, width, row_to + first);
          },
          column);
    }
  });
}

/// True for a matrix that stores its diagonal and nothing else.
bool is_diagonal(const SparseNumbers& matrix) {
  const Pattern& pattern = matrix.pattern();
  if (pattern.rows() != pattern.columns() || pattern.count() != pattern.rows()) return false;
  for (std::int64_t row = 0; row < pattern.rows(); ++row) {
    if (pattern.starts()[row] != row || pattern.places()[row] != row) return false;
  }
  return true;
}

/// a·b for a diagonal b.
Tensor times_diagonal(const Tensor& a, Turned a_turned, const Tensor& b, const Shape& shape) {
  const SparseNumbers& stored = *a.sparse();
  // Where nothing is stored there is a number all the same, which is 0.
  Tensor values = filled(stored.values().shape(), a.precision(), 0.0);
  std::shared_ptr<const Pattern> pattern =
      a_turned == Turned::no ? stored.shared_pattern() : stored.pattern().turned().pattern;
  visit(a.precision(), [&]<class T>(T) {
    const Rows<T> rows(stored, a_turned);
    const T* const diagonal = b.sparse()->values().data<T>();
    T* const to = values.writable<T>();
    for (std::int64_t at = 0; at < pattern->count(); ++at)
      to[at] = rows.number(at) * diagonal[rows.places[at]];
  });
  return Tensor::of(shape, std::make_unique<SparseNumbers>(std::move(pattern), std::move(values)));
}

}  // namespace

Tensor sparse_product(const Tensor& a, Turned a_turned, const Tensor& b, const Shape& shape) {
  if (b.is_sparse() && is_diagonal(*b.sparse())) return times_diagonal(a, a_turned, b, shape);
  Tensor result = Tensor::unfilled(shape, a.precision());
  visit(a.precision(), [&]<class T>(T) {
    multiply(Rows<T>(*a.sparse(), a_turned), shape[0], b.data<T>(), shape[1], result.writable<T>());
  });
  return result;
}

Tensor sparse_sum(const Tensor& x, AxisSet axes, const Shape& shape, double divisor) {
  const SparseNumbers& stored = *x.sparse();
  Tensor result = Tensor::unfilled(shape, x.precision());
  visit(x.precision(), [&]<class T>(T) {
    const Rows<T> rows(stored, contains(axes, 0) ? Turned::yes : Turned::no);
    const std::int64_t all = contains(axes, 0) ? x.shape()[1] : x.shape()[0];
    const std::int64_t together = shape.count() == 1 ? all : 1;
    T* const to = result.writable<T>();
    for (std::int64_t row = 0; row < all; row += together) {
      T sum{0};
      for (std::int64_t at = rows.starts[row]; at < rows.starts[row + together]; ++at)
        sum += rows.number(at);
      to[row] = sum / static_cast<T>(divisor);
    }
  });
  return result;
}

Tensor with_loops(const Tensor& x) {
  if (!x.is_sparse()) {
    Tensor result = x;
    visit(x.precision(), [&]<class T>(T) {
      T* const to = result.writable<T>();
      for (std::int64_t at = 0; at < x.shape()[0]; ++at)
        to[at * (x.shape()[1] + 1)] += T{1};
    });
    return result;
  }
  const SparseNumbers& stored = *x.sparse();
  const Pattern::WithDiagonal& more = stored.pattern().with_diagonal();
  Tensor values = filled(Shape{more.pattern->count()}, x.precision(), 0.0);
  visit(x.precision(), [&]<class T>(T) {
    T* const to = values.writable<T>();
    const T* const numbers = stored.values().data<T>();
    for (std::size_t at = 0; at < more.to.size(); ++at)
      to[more.to[at]] = numbers[at];
    for (const std::int32_t at : more.diagonal)
      to[at] += T{1};
  });
  return Tensor::of(x.shape(), std::make_unique<SparseNumbers>(more.pattern, std::move(values)));
}

Tensor scaled_both(const Tensor& x, const Tensor& rows, const Tensor& columns) {
  Tensor values = x.is_sparse() ? x.sparse()->values() : x;
  visit(x.precision(), [&]<class T>(T) {
    const T* const by_row = rows.data<T>();
    const T* const by_column = columns.data<T>();
    T* const to = values.writable<T>();
    if (x.is_sparse()) {
      const Rows<T> stored(*x.sparse(), Turned::no);
      for (std::int64_t row = 0; row < x.shape()[0]; ++row) {
        for (std::int64_t at = stored.starts[row]; at < stored.starts[row + 1]; ++at)
          to[at] = by_row[row] * to[at] * by_column[stored.places[at]];
      }
      return;
    }
    const std::int64_t width = x.shape()[1];
    for (std::int64_t at = 0; at < x.count(); ++at)
      to[at] = by_row[at / width] * to[at] * by_column[at % width];
  });
  return x.is_sparse() ? with_values(x, std::move(values)) : values;
}

Tensor scaled_both_slope(const Tensor& gradient, const Tensor& x, const Tensor& other,
                         bool is_of_rows) {
  const std::int64_t width = x.shape()[1];
  Tensor result = filled(Shape{x.shape()[is_of_rows ? 0 : 1]}, x.precision(), 0.0);
  visit(x.precision(), [&]<class T>(T) {
    const T* const numbers = x.data<T>();
    const T* const came = gradient.data<T>();
    const T* const scale = other.data<T>();
    T* const to = result.writable<T>();
    for (std::int64_t at = 0; at < x.count(); ++at) {
      const std::int64_t row = at / width;
      const std::int64_t column = at % width;
      to[is_of_rows ? row : column] += came[at] * numbers[at] * scale[is_of_rows ? column : row];
    }
  });
  return result;
}

}  // namespace lattice::kernels
