#pragma once

#include <cstdint>
#include <initializer_list>
#include <memory>
#include <span>
#include <vector>

#include "lattice/tensor/tensor.hpp"

namespace lattice {

/// Makes the bytes of examples when they are needed, for more than memory should hold, such as
/// pictures in a size that they are brought to.
class ExampleSource {
 public:
  ExampleSource() = default;
  ExampleSource(const ExampleSource&) = delete;
  ExampleSource& operator=(const ExampleSource&) = delete;
  virtual ~ExampleSource() = default;

  /// Writes the bytes of one example. May be called by several threads at once.
  virtual void write(std::int64_t example, std::span<std::uint8_t> to) const = 0;

  /// A hash of what one example is made of.
  [[nodiscard]] virtual std::uint64_t fingerprint(std::int64_t example) const = 0;
};

/// The raw numbers of examples, [example × …]. They are stored once and shared: as a tensor, or as
/// bytes if they were read as bytes, such as pixels, which are converted a few rows at a time.
/// Bytes may also be made by a source, each time a row is asked for.
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

  /// @param shape [example × …]
  [[nodiscard]] static Examples made_by(std::shared_ptr<const ExampleSource> source,
                                        const Shape& shape,
                                        Precision precision = Precision::double_);

  [[nodiscard]] bool empty() const { return numbers_.empty() && !are_bytes(); }
  [[nodiscard]] bool are_bytes() const { return bytes_ != nullptr || source_ != nullptr; }
  [[nodiscard]] const Shape& shape() const { return are_bytes() ? shape_ : numbers_.shape(); }
  [[nodiscard]] std::int64_t count() const { return empty() ? 0 : shape().count(); }
  [[nodiscard]] Precision precision() const {
    return are_bytes() ? precision_ : numbers_.precision();
  }

  /// The bytes in memory, row after row; empty if they are numbers, or made by a source.
  [[nodiscard]] std::span<const std::uint8_t> bytes() const {
    return bytes_ == nullptr ? std::span<const std::uint8_t>() : *bytes_;
  }

  /// The source that makes them, and the number that it has for an example; null for none.
  [[nodiscard]] const ExampleSource* source() const { return source_.get(); }
  [[nodiscard]] std::int64_t number_in_source(std::int64_t example) const {
    return chosen_ == nullptr ? example : (*chosen_)[static_cast<std::size_t>(example)];
  }

  /// The same with bytes in memory, whatever made them.
  [[nodiscard]] Examples in_memory() const;

  /// Copies the bytes of one example. Those of numbers are none.
  void copy_bytes(std::int64_t example, std::span<std::uint8_t> to) const;

  /// The numbers of one example.
  void copy_numbers(std::int64_t example, std::span<double> to) const;

  /// A number by its index, or by its offset; slow if a source makes them.
  /// @throws IndexError as `Tensor` does.
  [[nodiscard]] double at(const Index& index) const;
  [[nodiscard]] double at_offset(std::int64_t offset) const;

  /// Writes one number; bytes are converted to a tensor. @throws IndexError as `Tensor` does.
  void set(const Index& index, double number);

  /// The examples with these numbers, in this order. @throws IndexError when one does not exist.
  [[nodiscard]] Tensor rows(std::span<const std::int64_t> rows) const;

  /// The same, stored in the same way.
  [[nodiscard]] Examples taking(std::span<const std::int64_t> rows) const;

  /// These examples and others of the same shape, one after another: as bytes if both are.
  /// @throws ShapeError for another shape.
  [[nodiscard]] Examples followed_by(const Examples& others) const;

  /// All of them as a tensor.
  [[nodiscard]] Tensor all() const;
  operator Tensor() const { return all(); }

  /// All numbers, row after row.
  [[nodiscard]] std::vector<double> numbers() const { return all().numbers(); }

  /// The same in another precision.
  [[nodiscard]] Examples in(Precision precision) const;

  /// The same with axes labelled, one role an axis.
  [[nodiscard]] Examples with(std::initializer_list<Role> roles) const;

  /// The same numbers in another shape, with as many examples. @throws ShapeError for another
  /// count.
  [[nodiscard]] Examples reshaped(const Shape& shape) const;

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
  std::shared_ptr<const ExampleSource> source_ = nullptr;
  std::shared_ptr<const std::vector<std::int64_t>> chosen_ = nullptr;  ///< of the source; or all
  Precision precision_ = Precision::double_;
};

}  // namespace lattice
