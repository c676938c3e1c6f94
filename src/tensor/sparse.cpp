#include "lattice/tensor/sparse.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <limits>
#include <numeric>

#include "lattice/text/error.hpp"
#include "tensor/sparse_numbers.hpp"
#include "tensor/visit.hpp"

namespace lattice {
namespace {

constexpr std::int64_t most_places = std::numeric_limits<std::int32_t>::max();

void check_is_matrix(const Shape& shape) {
  if (shape.rank() == 2 && shape[0] <= most_places && shape[1] <= most_places) return;
  throw ShapeError({.what = "only a matrix can be sparse",
                    .expected = fmt::format("[row × column], each at most {}", most_places),
                    .found = to_string(shape)});
}

void check_is_inside(const Shape& shape, const MatrixEntry& entry, std::size_t number) {
  const auto is_inside = [](std::int64_t place, std::int64_t extent) {
    return place >= 0 && place < extent;
  };
  if (is_inside(entry.row, shape[0]) && is_inside(entry.column, shape[1])) return;
  throw IndexError(
      {.what = "an entry outside its matrix",
       .where = fmt::format("entry {}", number),
       .expected = fmt::format("rows 0 to {}, columns 0 to {}", shape[0] - 1, shape[1] - 1),
       .found = fmt::format("row {}, column {}", entry.row, entry.column)});
}

/// The order of entries by row, then by column; those of one place as they came.
std::vector<std::int32_t> in_order(std::span<const MatrixEntry> entries) {
  std::vector<std::int32_t> order(entries.size());
  std::iota(order.begin(), order.end(), 0);
  std::ranges::stable_sort(order, {}, [&](std::int32_t at) {
    const MatrixEntry& entry = entries[static_cast<std::size_t>(at)];
    return std::pair(entry.row, entry.column);
  });
  return order;
}

}  // namespace

Pattern::Pattern(std::int64_t columns, std::vector<std::int64_t> starts,
                 std::vector<std::int32_t> places)
    : columns_(columns), starts_(std::move(starts)), places_(std::move(places)) {}

std::span<const std::int32_t> Pattern::row(std::int64_t row) const {
  const std::int64_t* const start = starts() + row;
  return {places() + start[0], places() + start[1]};
}

const Pattern::Turned& Pattern::turned() const {
  std::call_once(is_turned_, [this] {
    std::vector<std::int64_t> starts(static_cast<std::size_t>(columns_) + 1, 0);
    for (const std::int32_t column : places_)
      ++starts[static_cast<std::size_t>(column) + 1];
    std::partial_sum(starts.begin(), starts.end(), starts.begin());
    std::vector<std::int64_t> next(starts.begin(), starts.end() - 1);
    std::vector<std::int32_t> of_rows(places_.size());
    turned_.from.resize(places_.size());
    for (std::int64_t row = 0; row < rows(); ++row) {
      for (std::int64_t at = starts_[static_cast<std::size_t>(row)];
           at < starts_[static_cast<std::size_t>(row) + 1]; ++at) {
        const auto column = static_cast<std::size_t>(places_[static_cast<std::size_t>(at)]);
        const auto to = static_cast<std::size_t>(next[column]++);
        of_rows[to] = static_cast<std::int32_t>(row);
        turned_.from[to] = static_cast<std::int32_t>(at);
      }
    }
    turned_.pattern =
        std::make_shared<const Pattern>(rows(), std::move(starts), std::move(of_rows));
  });
  return turned_;
}

const Pattern::WithDiagonal& Pattern::with_diagonal() const {
  std::call_once(has_diagonal_, [this] {
    std::vector<std::int64_t> starts{0};
    starts.reserve(starts_.size());
    std::vector<std::int32_t> places;
    places.reserve(places_.size() + starts_.size());
    const auto at_end = [&places] { return static_cast<std::int32_t>(places.size()); };
    with_diagonal_.to.reserve(places_.size());
    with_diagonal_.diagonal.reserve(starts_.size());
    for (std::int64_t row = 0; row < rows(); ++row) {
      const std::span<const std::int32_t> stored = this->row(row);
      const auto own = static_cast<std::int32_t>(row);
      const auto rest = std::ranges::lower_bound(stored, own);
      const auto take = [&](auto from, auto end) {
        for (; from != end; ++from) {
          with_diagonal_.to.push_back(at_end());
          places.push_back(*from);
        }
      };
      take(stored.begin(), rest);
      with_diagonal_.diagonal.push_back(at_end());
      if (rest == stored.end() || *rest != own) places.push_back(own);
      take(rest, stored.end());
      starts.push_back(std::ssize(places));
    }
    with_diagonal_.pattern =
        std::make_shared<const Pattern>(columns_, std::move(starts), std::move(places));
  });
  return with_diagonal_;
}

bool SparseNumbers::is_symmetric() const {
  std::call_once(is_compared_, [this] {
    const Pattern::Turned& other = pattern_->turned();
    const auto is_same = [](auto of_other, auto of_this, std::int64_t count) {
      return std::equal(of_other, of_other + count, of_this);
    };
    is_symmetric_ = pattern_->rows() == pattern_->columns() &&
                    is_same(other.pattern->starts(), pattern_->starts(), pattern_->rows() + 1) &&
                    is_same(other.pattern->places(), pattern_->places(), pattern_->count());
    for (std::int64_t at = 0; is_symmetric_ && at < pattern_->count(); ++at) {
      is_symmetric_ =
          values_.at_offset(at) == values_.at_offset(other.from[static_cast<std::size_t>(at)]);
    }
  });
  return is_symmetric_;
}

double SparseNumbers::at(std::int64_t row, std::int64_t column) const {
  const std::span<const std::int32_t> places = pattern_->row(row);
  const auto found = std::ranges::lower_bound(places, static_cast<std::int32_t>(column));
  if (found == places.end() || *found != column) return 0.0;
  return values_.at_offset(pattern_->starts()[row] + (found - places.begin()));
}

const Tensor& SparseNumbers::written_out() const {
  std::call_once(is_written_out_, [this] {
    constexpr std::int64_t most_numbers = std::int64_t{1} << 26;
    const Shape shape{pattern_->rows(), pattern_->columns()};
    if (shape.count() > most_numbers) {
      throw MemoryError(
          {.what = "a sparse matrix is too large for a dense copy",
           .expected = fmt::format("at most {} numbers, including zeros", most_numbers),
           .found = fmt::format("{}, of which {} are stored", to_string(shape), pattern_->count()),
           .remedy = "operations that use only stored entries: matmul with it on the left, sum, "
                     "with_loops, scale_both, at, entries_of"});
    }
    Tensor all = zeros(shape, values_.precision());
    visit(all.precision(), [&]<class T>(T) {
      T* const to = all.writable<T>();
      const T* const numbers = values_.data<T>();
      for (std::int64_t row = 0; row < pattern_->rows(); ++row) {
        for (std::int64_t at = pattern_->starts()[row]; at < pattern_->starts()[row + 1]; ++at)
          to[row * pattern_->columns() + pattern_->places()[at]] = numbers[at];
      }
    });
    written_out_ = std::move(all);
  });
  return written_out_;
}

void* Storage::written_out() const {
  const Tensor& all = sparse->written_out();
  return visit(precision, [&]<class T>(T) -> void* { return const_cast<T*>(all.data<T>()); });
}

void Storage::drop_sparse() {
  delete std::exchange(sparse, nullptr);
}

Tensor Tensor::of(const Shape& shape, std::unique_ptr<SparseNumbers> stored) {
  Tensor result(Holding(), shape, Storage::take(1, stored->values().precision()));
  result.storage_->count = shape.count();
  result.storage_->sparse_columns = stored->pattern().columns();
  result.storage_->sparse = stored.release();
  return result;
}

Tensor with_values(const Tensor& like, Tensor values) {
  return Tensor::of(like.shape(), std::make_unique<SparseNumbers>(like.sparse()->shared_pattern(),
                                                                  std::move(values)));
}

Tensor sparse_matrix(const Shape& shape, const std::vector<MatrixEntry>& entries,
                     Precision precision) {
  check_is_matrix(shape);
  if (std::ssize(entries) > most_places) {
    throw ShapeError({.what = "too many entries for a sparse matrix",
                      .expected = fmt::format("at most {}", most_places),
                      .found = fmt::format("{}", entries.size())});
  }
  for (std::size_t at = 0; at < entries.size(); ++at)
    check_is_inside(shape, entries[at], at);
  std::vector<std::int64_t> starts{0};
  starts.reserve(static_cast<std::size_t>(shape[0]) + 1);
  std::vector<std::int32_t> places;
  std::vector<double> numbers;
  std::int64_t row = 0;
  for (const std::int32_t at : in_order(entries)) {
    const MatrixEntry& entry = entries[static_cast<std::size_t>(at)];
    for (; row < entry.row; ++row)
      starts.push_back(std::ssize(places));
    const auto column = static_cast<std::int32_t>(entry.column);
    if (std::ssize(places) > starts.back() && places.back() == column) {
      numbers.back() += entry.number;
    } else {
      places.push_back(column);
      numbers.push_back(entry.number);
    }
  }
  starts.resize(static_cast<std::size_t>(shape[0]) + 1, std::ssize(places));
  // A tensor has one number or more: that of a matrix that stores none is not looked at.
  if (numbers.empty()) numbers.push_back(0.0);
  Tensor values = tensor({std::ssize(numbers)}, numbers, precision);
  return Tensor::of(
      shape, std::make_unique<SparseNumbers>(
                 std::make_shared<const Pattern>(shape[1], std::move(starts), std::move(places)),
                 std::move(values)));
}

std::vector<MatrixEntry> entries_of(const Tensor& matrix) {
  check_is_matrix(matrix.shape());
  std::vector<MatrixEntry> entries;
  for (std::int64_t row = 0; row < matrix.shape()[0]; ++row) {
    for (const std::int64_t column : stored_along(matrix, 1, row)) {
      const double number = matrix.at({row, column});
      if (number != 0.0 || matrix.is_sparse()) entries.push_back({row, column, number});
    }
  }
  return entries;
}

std::int64_t stored_count(const Tensor& tensor) {
  return tensor.is_sparse() ? tensor.sparse()->pattern().count() : tensor.count();
}

bool is_symmetric(const Tensor& matrix) {
  check_is_matrix(matrix.shape());
  if (matrix.is_sparse()) return matrix.sparse()->is_symmetric();
  const std::int64_t extent = matrix.shape()[0];
  bool is_same = extent == matrix.shape()[1];
  for (std::int64_t at = 0; is_same && at < matrix.count(); ++at)
    is_same = matrix.at_offset(at) == matrix.at({at % extent, at / extent});
  return is_same;
}

std::vector<std::int64_t> stored_along(const Tensor& tensor, int axis, std::int64_t place) {
  if (!tensor.is_sparse()) {
    std::vector<std::int64_t> all(static_cast<std::size_t>(tensor.shape()[axis]));
    std::iota(all.begin(), all.end(), std::int64_t{0});
    return all;
  }
  const Pattern& pattern = tensor.sparse()->pattern();
  const std::span<const std::int32_t> stored =
      axis == 1 ? pattern.row(place) : pattern.turned().pattern->row(place);
  return {stored.begin(), stored.end()};
}

}  // namespace lattice
