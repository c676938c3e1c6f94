#pragma once

#include <cstdint>
#include <initializer_list>
#include <memory>
#include <span>
#include <vector>

#include "lattice/tensor/tensor.hpp"

namespace lattice {

/// The raw numbers of examples, [example × …]. They are stored once and shared: as a tensor, or as
/// bytes if they were read as bytes, such as pixels, which are converted a few rows at a time.
///
/// @code
/// const Examples pictures = Examples::of_bytes({2, 3, 3, 1}, std::vector<std::uint8_t>(18, 255));
/// pictures.rows(std::vector<std::int64_t>{1});   // [1 × 3 × 3 × 1], each number 255
/// @endcode
class Examples {
 public:
  Examples() = default;
  Examples(Tensor numbers) : numbers_(std::move(numbers)) {}

  /// @throws ShapeError when there are not as many bytes as the shape holds.
  [[nodiscard]] static Examples of_bytes(const Shape& shape, std::vector<std::uint8_t> bytes,
                                         Precision precision = Precision::double_);

  [[nodiscard]] bool empty() const { return numbers_.empty() && bytes_ == nullptr; }
  [[nodiscard]] bool are_bytes() const { return bytes_ != nullptr; }
  [[nodiscard]] const Shape& shape() const { return are_bytes() ? shape_ : numbers_.shape(); }
  [[nodiscard]] std::int64_t count() const { return empty() ? 0 : shape().count(); }
  [[nodiscard]] Precision precision() const {
    return are_bytes() ? precision_ : numbers_.precision();
  }

  /// The bytes, row after row; empty if they are not stored as bytes.
  [[nodiscard]] std::span<const std::uint8_t> bytes() const {
    return are_bytes() ? std::span<const std::uint8_t>(*bytes_) : std::span<const std::uint8_t>();
  }

  /// A number by its index, or by its offset. @throws IndexError as `Tensor` does.
  [[nodiscard]] double at(const Index& index) const;
  [[nodiscard]] double at_offset(std::int64_t offset) const;

  /// Writes one number; bytes are converted to a tensor. @throws IndexError as `Tensor` does.
  void set(const Index& index, double number);

  /// The examples with these numbers, in this order. @throws IndexError when one does not exist.
  [[nodiscard]] Tensor rows(std::span<const std::int64_t> rows) const;

  /// The same, stored in the same way.
  [[nodiscard]] Examples taking(std::span<const std::int64_t> rows) const;

  /// All of them as a tensor.
  [[nodiscard]] Tensor all() const;
  operator Tensor() const { return all(); }

  /// All numbers, row after row.
  [[nodiscard]] std::vector<double> numbers() const { return all().numbers(); }

  /// The same in another precision.
  [[nodiscard]] Examples in(Precision precision) const;

  /// The same with axes labelled, one role an axis.
  [[nodiscard]] Examples with(std::initializer_list<Role> roles) const;

  /// Sets the role of an axis.
  void label(int axis, Role role);

  /// Whether shapes, precisions and all numbers are the same, however they are stored.
  friend bool operator==(const Examples& a, const Examples& b) {
    return a.empty() || b.empty() ? a.empty() == b.empty() : a.all() == b.all();
  }
  friend bool operator==(const Examples& a, const Tensor& b) { return a == Examples(b); }

 private:
  Tensor numbers_ = {};
  Shape shape_ = {};  ///< of bytes
  std::shared_ptr<const std::vector<std::uint8_t>> bytes_ = nullptr;
  Precision precision_ = Precision::double_;
};

}  // namespace lattice
