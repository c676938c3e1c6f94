#include "lattice/data/examples.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <utility>

#include "lattice/text/error.hpp"
#include "tensor/visit.hpp"

namespace lattice {
namespace {

/// Bytes as numbers of a precision, row by row.
/// @param row_of the number of the row that comes next
template <class RowOf>
Tensor numbers_of(std::span<const std::uint8_t> bytes, const Shape& shape, Precision precision,
                  RowOf row_of) {
  Tensor result = Tensor::unfilled(shape, precision);
  const std::int64_t width = shape.count() / shape[0];
  visit(precision, [&]<class T>(T) {
    T* to = result.writable<T>();
    for (std::int64_t row = 0; row < shape[0]; ++row, to += width) {
      const std::uint8_t* const from = bytes.data() + row_of(row) * width;
      for (std::int64_t at = 0; at < width; ++at)
        to[at] = static_cast<T>(from[at]);
    }
  });
  return result;
}

void check_rows(std::span<const std::int64_t> rows, std::int64_t count) {
  for (const std::int64_t row : rows) {
    if (row >= 0 && row < count) continue;
    throw IndexError({.what = fmt::format("there is no row {}", row),
                      .expected = fmt::format("0 to {}", count - 1),
                      .found = fmt::format("{}", row)});
  }
}

}  // namespace

Examples Examples::of_bytes(const Shape& shape, std::vector<std::uint8_t> bytes,
                            Precision precision) {
  if (std::ssize(bytes) != shape.count() || shape.rank() == 0) {
    throw ShapeError({.what = "the number of bytes does not match the examples",
                      .expected = fmt::format("{} for {}", shape.count(), to_string(shape)),
                      .found = fmt::format("{}", bytes.size())});
  }
  Examples examples;
  examples.shape_ = shape;
  examples.bytes_ = std::make_shared<const std::vector<std::uint8_t>>(std::move(bytes));
  examples.precision_ = precision;
  return examples;
}

double Examples::at(const Index& index) const {
  return are_bytes() ? at_offset(shape_.offset(index)) : numbers_.at(index);
}

double Examples::at_offset(std::int64_t offset) const {
  if (!are_bytes()) return numbers_.at_offset(offset);
  if (offset >= 0 && offset < std::ssize(*bytes_)) {
    return static_cast<double>((*bytes_)[static_cast<std::size_t>(offset)]);
  }
  throw IndexError({.what = fmt::format("there is no number {} in {}", offset, to_string(shape_)),
                    .expected = fmt::format("0 to {}", bytes_->size() - 1),
                    .found = fmt::format("{}", offset)});
}

void Examples::set(const Index& index, double number) {
  if (are_bytes()) *this = Examples(all());
  numbers_.set(index, number);
}

Tensor Examples::rows(std::span<const std::int64_t> rows) const {
  if (!are_bytes()) return numbers_.rows(rows);
  check_rows(rows, shape_[0]);
  return numbers_of(*bytes_, shape_.with_extent(0, std::ssize(rows)), precision_,
                    [&](std::int64_t at) { return rows[static_cast<std::size_t>(at)]; });
}

Examples Examples::taking(std::span<const std::int64_t> rows) const {
  if (!are_bytes()) return numbers_.rows(rows);
  check_rows(rows, shape_[0]);
  const std::int64_t width = shape_.count() / shape_[0];
  std::vector<std::uint8_t> taken;
  taken.reserve(rows.size() * static_cast<std::size_t>(width));
  for (const std::int64_t row : rows) {
    const auto first = bytes_->begin() + row * width;
    taken.insert(taken.end(), first, first + width);
  }
  return of_bytes(shape_.with_extent(0, std::ssize(rows)), std::move(taken), precision_);
}

Tensor Examples::all() const {
  if (!are_bytes()) return numbers_;
  return numbers_of(*bytes_, shape_, precision_, [](std::int64_t row) { return row; });
}

Examples Examples::in(Precision precision) const {
  Examples result = *this;
  if (are_bytes()) {
    result.precision_ = precision;
  } else if (!empty()) {
    result.numbers_ = numbers_.in(precision);
  }
  return result;
}

Examples Examples::with(std::initializer_list<Role> roles) const {
  Examples result = *this;
  if (are_bytes()) {
    result.shape_ = shape_.with(roles);
  } else {
    result.numbers_ = numbers_.with(roles);
  }
  return result;
}

void Examples::label(int axis, Role role) {
  if (are_bytes()) {
    shape_.set_role(axis, role);
  } else {
    numbers_.label(axis, role);
  }
}

}  // namespace lattice
