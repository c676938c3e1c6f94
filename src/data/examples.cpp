#include "lattice/data/examples.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <numeric>
#include <utility>

#include "data/hash.hpp"
#include "lattice/text/error.hpp"
#include "tensor/visit.hpp"

namespace lattice {
namespace {

/// Bytes as numbers of a precision, row by row.
/// @param bytes_of the bytes of the row that comes next
template <class BytesOf>
Tensor numbers_of(const Shape& shape, Precision precision, BytesOf bytes_of) {
  Tensor result = Tensor::unfilled(shape, precision);
  const std::int64_t width = shape.count() / shape[0];
  visit(precision, [&]<class T>(T) {
    T* to = result.writable<T>();
    for (std::int64_t row = 0; row < shape[0]; ++row, to += width) {
      const std::uint8_t* const from = bytes_of(row);
      for (std::int64_t at = 0; at < width; ++at)
        to[at] = static_cast<T>(from[at]);
    }
  });
  return result;
}

/// Examples of two kinds, those of the second after those of the first.
class Joined final : public ExampleSource {
 public:
  Joined(Examples first, Examples second) : first_(std::move(first)), second_(std::move(second)) {}

  void write(std::int64_t example, std::span<std::uint8_t> to) const override {
    const auto [of, number] = place_of(example);
    of->copy_bytes(number, to);
  }

  [[nodiscard]] std::uint64_t fingerprint(std::int64_t example) const override {
    const auto [of, number] = place_of(example);
    return of->source() == nullptr ? hash_of_bytes(*of, number)
                                   : of->source()->fingerprint(of->number_in_source(number));
  }

 private:
  [[nodiscard]] std::pair<const Examples*, std::int64_t> place_of(std::int64_t example) const {
    const std::int64_t of_first = first_.shape()[0];
    return example < of_first ? std::pair(&first_, example)
                              : std::pair(&second_, example - of_first);
  }

  static std::uint64_t hash_of_bytes(const Examples& examples, std::int64_t number) {
    std::vector<std::uint8_t> bytes(
        static_cast<std::size_t>(examples.count() / examples.shape()[0]));
    examples.copy_bytes(number, bytes);
    return hash_of(bytes);
  }

  Examples first_;
  Examples second_;
};

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

Examples Examples::made_by(std::shared_ptr<const ExampleSource> source, const Shape& shape,
                           Precision precision) {
  Examples examples;
  examples.shape_ = shape;
  examples.source_ = std::move(source);
  examples.precision_ = precision;
  return examples;
}

void Examples::copy_bytes(std::int64_t example, std::span<std::uint8_t> to) const {
  if (source_ != nullptr) return source_->write(number_in_source(example), to);
  if (bytes_ != nullptr)
    std::ranges::copy_n(bytes_->begin() + example * std::ssize(to), std::ssize(to), to.begin());
}

void Examples::copy_numbers(std::int64_t example, std::span<double> to) const {
  if (are_bytes()) {
    std::vector<std::uint8_t> bytes(to.size());
    copy_bytes(example, bytes);
    std::ranges::copy(bytes, to.begin());
    return;
  }
  visit(numbers_.precision(), [&]<class T>(T) {
    std::ranges::copy_n(numbers_.data<T>() + example * std::ssize(to), std::ssize(to), to.begin());
  });
}

Examples Examples::in_memory() const {
  if (source_ == nullptr) return *this;
  const auto width = static_cast<std::size_t>(shape_.count() / shape_[0]);
  std::vector<std::uint8_t> all(static_cast<std::size_t>(shape_.count()));
  for (std::int64_t row = 0; row < shape_[0]; ++row)
    copy_bytes(row, std::span(all).subspan(static_cast<std::size_t>(row) * width, width));
  return of_bytes(shape_, std::move(all), precision_);
}

double Examples::at(const Index& index) const {
  return are_bytes() ? at_offset(shape_.offset(index)) : numbers_.at(index);
}

double Examples::at_offset(std::int64_t offset) const {
  if (!are_bytes()) return numbers_.at_offset(offset);
  if (offset >= 0 && offset < shape_.count()) {
    if (bytes_ != nullptr) return static_cast<double>((*bytes_)[static_cast<std::size_t>(offset)]);
    const std::int64_t width = shape_.count() / shape_[0];
    std::vector<std::uint8_t> one(static_cast<std::size_t>(width));
    copy_bytes(offset / width, one);
    return static_cast<double>(one[static_cast<std::size_t>(offset % width)]);
  }
  throw IndexError({.what = fmt::format("there is no number {} in {}", offset, to_string(shape_)),
                    .expected = fmt::format("0 to {}", shape_.count() - 1),
                    .found = fmt::format("{}", offset)});
}

void Examples::set(const Index& index, double number) {
  if (are_bytes()) *this = Examples(all());
  numbers_.set(index, number);
}

Tensor Examples::rows(std::span<const std::int64_t> rows) const {
  if (!are_bytes()) return numbers_.rows(rows);
  check_rows(rows, shape_[0]);
  const std::int64_t width = shape_.count() / shape_[0];
  std::vector<std::uint8_t> one(source_ == nullptr ? 0 : static_cast<std::size_t>(width));
  return numbers_of(shape_.with_extent(0, std::ssize(rows)), precision_, [&](std::int64_t at) {
    const std::int64_t row = rows[static_cast<std::size_t>(at)];
    if (source_ == nullptr) return bytes_->data() + row * width;
    copy_bytes(row, one);
    return static_cast<const std::uint8_t*>(one.data());
  });
}

Examples Examples::taking(std::span<const std::int64_t> rows) const {
  if (!are_bytes()) return numbers_.rows(rows);
  check_rows(rows, shape_[0]);
  const Shape taken_shape = shape_.with_extent(0, std::ssize(rows));
  if (source_ != nullptr) {
    Examples taken = made_by(source_, taken_shape, precision_);
    std::vector<std::int64_t> chosen;
    chosen.reserve(rows.size());
    for (const std::int64_t row : rows)
      chosen.push_back(number_in_source(row));
    taken.chosen_ = std::make_shared<const std::vector<std::int64_t>>(std::move(chosen));
    return taken;
  }
  const std::int64_t width = shape_.count() / shape_[0];
  std::vector<std::uint8_t> taken;
  taken.reserve(rows.size() * static_cast<std::size_t>(width));
  for (const std::int64_t row : rows) {
    const auto first = bytes_->begin() + row * width;
    taken.insert(taken.end(), first, first + width);
  }
  return of_bytes(taken_shape, std::move(taken), precision_);
}

Examples Examples::followed_by(const Examples& others) const {
  if (empty()) return others;
  if (others.empty()) return *this;
  if (shape().without_first_axis() != others.shape().without_first_axis()) {
    throw ShapeError({.what = "examples of different shapes",
                      .expected = to_string(shape().without_first_axis()),
                      .found = to_string(others.shape().without_first_axis())});
  }
  const Shape both = shape().with_extent(0, shape()[0] + others.shape()[0]);
  if (are_bytes() && others.are_bytes() && (source_ != nullptr || others.source_ != nullptr))
    return made_by(std::make_shared<const Joined>(*this, others), both, precision_);
  if (are_bytes() && others.are_bytes()) {
    std::vector<std::uint8_t> all;
    all.reserve(static_cast<std::size_t>(both.count()));
    all.insert(all.end(), bytes_->begin(), bytes_->end());
    all.insert(all.end(), others.bytes_->begin(), others.bytes_->end());
    return of_bytes(both, std::move(all), precision_);
  }
  std::vector<double> all = numbers();
  const std::vector<double> more = others.numbers();
  all.insert(all.end(), more.begin(), more.end());
  return tensor(both, all).in(precision());
}

Tensor Examples::all() const {
  if (!are_bytes()) return numbers_;
  std::vector<std::int64_t> all(static_cast<std::size_t>(shape_[0]));
  std::iota(all.begin(), all.end(), 0);
  return rows(all);
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

Examples Examples::reshaped(const Shape& shape) const {
  if (!are_bytes()) return numbers_.reshaped(shape);
  if (shape.count() != shape_.count() || shape[0] != shape_[0]) {
    throw ShapeError({.what = "the examples do not fit another shape",
                      .expected = to_string(shape_),
                      .found = to_string(shape)});
  }
  Examples result = *this;
  result.shape_ = shape;
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
