#include "tensor/normalising_kernels.hpp"

#include <Eigen/Core>
#include <algorithm>
#include <array>
#include <vector>

#include "tensor/parallel.hpp"
#include "tensor/visit.hpp"

namespace lattice::kernels {
namespace {

template <class T>
using Row = Eigen::Map<const Eigen::Array<T, Eigen::Dynamic, 1>>;
template <class T>
using MutableRow = Eigen::Map<Eigen::Array<T, Eigen::Dynamic, 1>>;

/// Rows beside each other, so many that they make a wide one, and pieces of wide rows.
struct Laid {
  explicit Laid(const Shape& x)
      : width(x[x.rank() - 1]),
        wide(width * std::max(std::int64_t{512} / width, std::int64_t{1})),
        count(x.count()),
        a_piece(wide * std::max((std::int64_t{1} << 14) / wide, std::int64_t{1})),
        pieces((count + a_piece - 1) / a_piece) {}

  /// Calls `work(piece, offset, length)` for each wide row; the last may be shorter.
  template <class Work>
  void each(Work work) const {
    in_parallel(pieces, count * multiplications_a_number, [&](std::int64_t piece) {
      const std::int64_t end = std::min((piece + 1) * a_piece, count);
      for (std::int64_t at = piece * a_piece; at < end; at += wide)
        work(piece, at, std::min(wide, end - at));
    });
  }

  std::int64_t width;
  std::int64_t wide;
  std::int64_t count;
  std::int64_t a_piece;
  std::int64_t pieces;
};

/// The numbers of the columns, over and over, for a wide row.
template <class T>
class Repeated {
 public:
  Repeated(const Tensor& columns, const Laid& laid)
      : numbers_(static_cast<std::size_t>(laid.wide)) {
    for (std::int64_t at = 0; at < laid.wide; ++at)
      numbers_[static_cast<std::size_t>(at)] = columns.data<T>()[at % laid.width];
  }

  [[nodiscard]] Row<T> first(std::int64_t length) const { return {numbers_.data(), length}; }

 private:
  std::vector<T> numbers_;
};

/// Sums of each column, of so many kinds: `add(offset, length, sums…)` adds a wide row to them.
/// Each piece has sums of its own, whatever the threads are.
template <class T, std::size_t kinds, class Add>
std::array<Tensor, kinds> column_sums(const Laid& laid, Precision precision, Add add) {
  Tensor of_pieces =
      Tensor::unfilled(Shape{laid.pieces, static_cast<std::int64_t>(kinds), laid.wide}, precision);
  T* const all = of_pieces.writable<T>();
  std::fill_n(all, of_pieces.count(), T{0});
  const auto kind_count = static_cast<std::int64_t>(kinds);
  laid.each([&](std::int64_t piece, std::int64_t at, std::int64_t length) {
    add(at, length, all + piece * kind_count * laid.wide);
  });
  std::array<Tensor, kinds> sums;
  for (std::size_t kind = 0; kind < kinds; ++kind) {
    Tensor& sum = sums[kind];
    sum = Tensor::unfilled(Shape{laid.width}, precision);
    MutableRow<T> to(sum.writable<T>(), laid.width);
    to.setZero();
    for (std::int64_t piece = 0; piece < laid.pieces; ++piece) {
      const T* const from =
          all + (piece * kind_count + static_cast<std::int64_t>(kind)) * laid.wide;
      for (std::int64_t at = 0; at < laid.wide; at += laid.width)
        to += Row<T>(from + at, laid.width);
    }
  }
  return sums;
}

}  // namespace

Tensor normalised_columns(const Tensor& x, const Tensor& mean, const Tensor& factor,
                          const Tensor& shift) {
  Tensor result = Tensor::unfilled(x.shape(), x.precision());
  const Laid laid(x.shape());
  visit(x.precision(), [&]<class T>(T) {
    const T* const from = x.data<T>();
    T* const to = result.writable<T>();
    const Repeated<T> means(mean, laid);
    const Repeated<T> factors(factor, laid);
    const Repeated<T> shifts(shift, laid);
    laid.each([&](std::int64_t, std::int64_t at, std::int64_t length) {
      MutableRow<T>(to + at, length) =
          (Row<T>(from + at, length) - means.first(length)) * factors.first(length) +
          shifts.first(length);
    });
  });
  return result;
}

Tensor variance_of_columns(const Tensor& x, const Tensor& mean) {
  const Laid laid(x.shape());
  return visit(x.precision(), [&]<class T>(T) {
    const T* const from = x.data<T>();
    const Repeated<T> means(mean, laid);
    const auto add = [&](std::int64_t at, std::int64_t length, T* sums) {
      MutableRow<T>(sums, length) += (Row<T>(from + at, length) - means.first(length)).square();
    };
    Tensor sum = column_sums<T, 1>(laid, x.precision(), add)[0];
    const std::int64_t rows = laid.count / laid.width;
    MutableRow<T>(sum.writable<T>(), laid.width) /= static_cast<T>(rows);
    return sum;
  });
}

ColumnSums sums_of_columns(const Tensor& gradient, const Tensor& x, const Tensor& mean) {
  const Laid laid(x.shape());
  return visit(x.precision(), [&]<class T>(T) {
    const T* const from = x.data<T>();
    const T* const came = gradient.data<T>();
    const Repeated<T> means(mean, laid);
    const auto add = [&](std::int64_t at, std::int64_t length, T* sums) {
      const Row<T> here(came + at, length);
      MutableRow<T>(sums, length) += here;
      MutableRow<T>(sums + laid.wide, length) +=
          here * (Row<T>(from + at, length) - means.first(length));
    };
    const std::array<Tensor, 2> sums = column_sums<T, 2>(laid, x.precision(), add);
    return ColumnSums{sums[0], sums[1]};
  });
}

Tensor gradient_at_columns(const Tensor& gradient, const Tensor& x, const Tensor& mean,
                           const Tensor& factor, const Tensor& constant, const Tensor& slope) {
  Tensor result = Tensor::unfilled(x.shape(), x.precision());
  const Laid laid(x.shape());
  visit(x.precision(), [&]<class T>(T) {
    const T* const from = x.data<T>();
    const T* const came = gradient.data<T>();
    T* const to = result.writable<T>();
    const Repeated<T> means(mean, laid);
    const Repeated<T> factors(factor, laid);
    const Repeated<T> constants(constant, laid);
    const Repeated<T> slopes(slope, laid);
    laid.each([&](std::int64_t, std::int64_t at, std::int64_t length) {
      MutableRow<T>(to + at, length) =
          Row<T>(came + at, length) * factors.first(length) + constants.first(length) +
          (Row<T>(from + at, length) - means.first(length)) * slopes.first(length);
    });
  });
  return result;
}

}  // namespace lattice::kernels
