#include "lattice/tensor/tensor.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <cstring>
#include <limits>

#include "lattice/tensor/sparse.hpp"
#include "lattice/text/error.hpp"
#include "tensor/short_rows.hpp"
#include "tensor/sparse_numbers.hpp"
#include "tensor/visit.hpp"
#include "text/counted.hpp"

namespace lattice {
namespace {

/// A tensor filled by asking `next` for each number in turn.
template <class Next>
Tensor filled(const Shape& shape, Precision precision, Next next) {
  Tensor result = Tensor::unfilled(shape, precision);
  visit(precision, [&]<class T>(T) {
    std::generate_n(result.writable<T>(), result.count(), [&] { return static_cast<T>(next()); });
  });
  return result;
}

void collect(const Nested& numbers, std::span<const std::int64_t> extents, size_t depth,
             std::vector<double>& all) {
  const bool leaf = depth == extents.size();
  if (numbers.is_list() == leaf || (!leaf && std::ssize(numbers.parts()) != extents[depth])) {
    throw ShapeError(
        {.what = "nested numbers of unequal length",
         .where = fmt::format("after {}, {} deep", counted(std::ssize(all), "number"),
                              counted(static_cast<std::int64_t>(depth), "level")),
         .expected = leaf ? "a number, like the first entry"
                          : counted(extents[depth], "entry", "entries") + ", as in the first row",
         .found = numbers.is_list() ? counted(std::ssize(numbers.parts()), "entry", "entries")
                                    : "a number"});
  }
  if (leaf) all.push_back(numbers.number());
  for (const Nested& part : numbers.parts())
    collect(part, extents, depth + 1, all);
}

}  // namespace

void Tensor::refuse_empty() {
  throw NumberError(
      {.what = "this tensor is empty",
       .remedy = "it was never filled, or its numbers were moved; of a batch, `targets` are empty "
                 "where examples have `classes`"});
}

void Tensor::refuse_precision(Precision asked) const {
  const auto type = [](Precision precision) {
    return precision == Precision::double_ ? "double" : "float";
  };
  throw NumberError({.what = "the numbers of a tensor were asked for in the other precision",
                     .expected = fmt::format("data<{}>() of a tensor in {} precision",
                                             type(precision()), word(precision())),
                     .found = fmt::format("data<{}>()", type(asked)),
                     .remedy = "in(…) gives the numbers in another precision"});
}

void Tensor::take_own_copy() {
  Tensor own = unfilled(shape_, storage_->precision);
  const size_t size = storage_->precision == Precision::double_ ? sizeof(double) : sizeof(float);
  std::memcpy(own.storage_->numbers(), storage_->numbers(), static_cast<size_t>(count()) * size);
  swap(own);
}

double Tensor::at(const Index& index) const {
  return at_offset(shape_.offset(index));
}

double Tensor::at_offset(std::int64_t offset) const {
  check_filled();
  if (offset < 0 || offset >= count()) {
    throw IndexError({.what = "an offset outside the tensor",
                      .expected = fmt::format("0 to {}", count() - 1),
                      .found = fmt::format("{}", offset)});
  }
  if (const SparseNumbers* const stored = storage_->sparse) {
    const std::int64_t columns = stored->pattern().columns();
    return stored->at(offset / columns, offset % columns);
  }
  return visit(precision(), [&]<class T>(T) { return static_cast<double>(data<T>()[offset]); });
}

double Tensor::number() const {
  check_filled();
  if (count() != 1) {
    throw ShapeError({.what = "a tensor of several numbers has no single number",
                      .expected = "one number",
                      .found = to_string(shape_),
                      .remedy = "ask for one place with at(), or take sum or mean first"});
  }
  return at_offset(0);
}

std::vector<double> Tensor::numbers() const {
  return visit(precision(),
               [&]<class T>(T) { return std::vector<double>(data<T>(), data<T>() + count()); });
}

void Tensor::set(const Index& index, double number) {
  const std::int64_t offset = shape_.offset(index);
  visit(precision(), [&]<class T>(T) { writable<T>()[offset] = static_cast<T>(number); });
}

void Tensor::refuse_count(const Shape& shape) const {
  throw ShapeError(
      {.what = "cannot reshape: the counts of numbers differ",
       .expected =
           fmt::format("a shape of {}, as {} holds", counted(count(), "number"), to_string(shape_)),
       .found = fmt::format("{}, {}", to_string(shape), counted(shape.count(), "number"))});
}

Tensor Tensor::with(std::initializer_list<Role> roles) const {
  Tensor result = *this;
  result.shape_ = shape_.with(roles);
  return result;
}

Tensor Tensor::in(Precision precision) const {
  if (precision == this->precision()) return *this;
  if (is_sparse()) return with_values(*this, sparse()->values().in(precision));
  Tensor result = unfilled(shape_, precision);
  visit(precision, [&]<class To>(To) {
    visit(this->precision(), [&]<class From>(From) {
      std::transform(data<From>(), data<From>() + count(), result.writable<To>(),
                     [](From number) { return static_cast<To>(number); });
    });
  });
  return result;
}

Tensor Tensor::rows(std::span<const std::int64_t> rows) const {
  check_filled();
  if (shape_.rank() == 0) {
    throw ShapeError({.what = "a single number has no rows"});
  }
  const std::int64_t all = shape_[0];
  for (const std::int64_t row : rows) {
    if (row >= 0 && row < all) continue;
    throw IndexError({.what = "there is no such row",
                      .expected = fmt::format("0 to {}", all - 1),
                      .found = fmt::format("row {}", row)});
  }
  const Shape shape = shape_.with_extent(0, std::ssize(rows));
  Tensor result = unfilled(shape, precision());
  const std::int64_t width = shape.count() / std::ssize(rows);
  visit(precision(), [&]<class T>(T) {
    T* to = result.writable<T>();
    if (const SparseNumbers* const stored = sparse()) {
      for (const std::int64_t row : rows) {
        for (std::int64_t column = 0; column < width; ++column)
          *to++ = static_cast<T>(stored->at(row, column));
      }
      return;
    }
    const T* const from = data<T>();
    if (width > kernels::longest_short_row) {
      for (const std::int64_t row : rows)
        to = std::copy_n(from + row * width, width, to);
      return;
    }
    kernels::with_short_length(width, [&](auto length) {
      for (const std::int64_t row : rows) {
        for (std::int64_t at = 0; at < length; ++at)
          to[at] = from[row * length + at];
        to += length;
      }
    });
  });
  return result;
}

bool operator==(const Tensor& a, const Tensor& b) {
  if (a.empty() || b.empty()) return a.empty() == b.empty();
  if (a.shape() != b.shape() || a.precision() != b.precision()) return false;
  if (a.is_sparse() && b.is_sparse()) {
    std::vector<MatrixEntry> of_a = entries_of(a);
    std::vector<MatrixEntry> of_b = entries_of(b);
    for (std::vector<MatrixEntry>* const entries : {&of_a, &of_b})
      std::erase_if(*entries, [](const MatrixEntry& entry) { return entry.number == 0.0; });
    return of_a == of_b;
  }
  return visit(a.precision(), [&]<class T>(T) {
    return a.data<T>() == b.data<T>() ||
           std::memcmp(a.data<T>(), b.data<T>(), static_cast<size_t>(a.count()) * sizeof(T)) == 0;
  });
}

Tensor tensor(const Nested& numbers, Precision precision) {
  std::vector<std::int64_t> extents;
  for (const Nested* first = &numbers; first->is_list(); first = first->parts().data()) {
    extents.push_back(std::ssize(first->parts()));
    if (first->parts().empty()) break;
  }
  const Shape shape{std::span<const std::int64_t>(extents)};
  std::vector<double> all;
  collect(numbers, extents, 0, all);
  return tensor(shape, all, precision);
}

Tensor tensor(const Shape& shape, std::span<const double> numbers, Precision precision) {
  if (std::ssize(numbers) != shape.count()) {
    throw ShapeError(
        {.what = "numbers and shape differ in count",
         .expected = fmt::format("{} for {}", counted(shape.count(), "number"), to_string(shape)),
         .found = counted(std::ssize(numbers), "number")});
  }
  auto next = numbers.begin();
  return filled(shape, precision, [&] { return *next++; });
}

Tensor constant(const Shape& shape, double number, Precision precision) {
  return filled(shape, precision, [&] { return number; });
}

Tensor zeros(const Shape& shape, Precision precision) {
  return constant(shape, 0.0, precision);
}

Tensor ones(const Shape& shape, Precision precision) {
  return constant(shape, 1.0, precision);
}

Tensor identity(std::int64_t size, Precision precision) {
  Tensor result = zeros({size, size}, precision);
  for (std::int64_t place = 0; place < size; ++place)
    result.set({place, place}, 1.0);
  return result;
}

Tensor evenly_spaced(double first, double last, std::int64_t count, Precision precision) {
  std::int64_t place = 0;
  return filled({count}, precision, [&] {
    const auto gaps = static_cast<double>(count - 1);
    const auto from_first = static_cast<double>(place++);
    return count == 1 ? first : (first * (gaps - from_first) + last * from_first) / gaps;
  });
}

Tensor normal(const Shape& shape, double mean, double standard_deviation, Random& random,
              Precision precision) {
  return filled(shape, precision, [&] { return random.normal(mean, standard_deviation); });
}

Tensor uniform(const Shape& shape, double low, double high, Random& random, Precision precision) {
  return filled(shape, precision, [&] { return random.uniform(low, high); });
}

Tensor random_permutation(std::int64_t count, Random& random, Precision precision) {
  const Shape shape{count};
  const std::vector<std::int64_t> order = random.shuffled(count);
  auto next = order.begin();
  return filled(shape, precision, [&] { return static_cast<double>(*next++); });
}

double sum_of_squares(const Tensor& x, double sum) {
  if (x.is_sparse()) return sum_of_squares(x.sparse()->values(), sum);
  visit(x.precision(), [&]<class T>(T) {
    for (const T number : std::span(x.data<T>(), static_cast<std::size_t>(x.count())))
      sum += static_cast<double>(number) * static_cast<double>(number);
  });
  return sum;
}

Distance distance(const Tensor& a, const Tensor& b) {
  if (a.shape() != b.shape()) {
    throw ShapeError({.what = "tensors of different shapes cannot be compared",
                      .expected = to_string(a.shape()),
                      .found = to_string(b.shape())});
  }
  Distance result{.largest = -1.0};
  for (std::int64_t offset = 0; offset < a.count(); ++offset) {
    const double first = a.at_offset(offset);
    const double second = b.at_offset(offset);
    double apart = first == second ? 0.0 : std::abs(first - second);
    if (std::isnan(apart)) {
      apart =
          std::isnan(first) && std::isnan(second) ? 0.0 : std::numeric_limits<double>::infinity();
    }
    if (apart > result.largest) result = {apart, a.shape().index(offset)};
  }
  return result;
}

}  // namespace lattice
