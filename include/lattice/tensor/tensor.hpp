#pragma once

#include <concepts>
#include <cstdint>
#include <initializer_list>
#include <memory>
#include <ranges>
#include <span>
#include <string>
#include <type_traits>
#include <utility>
#include <vector>

#include "lattice/tensor/detail/storage.hpp"
#include "lattice/tensor/precision.hpp"
#include "lattice/tensor/random.hpp"
#include "lattice/tensor/shape.hpp"

namespace lattice {

class Line;

/// Numbers in a grid of 0 to 6 axes, all of one precision, the last axis running fastest.
///
/// A tensor is a value: copies are cheap, and changing one never changes another.
///
/// @code
/// Tensor t = tensor({{1, 2, 3}, {4, 5, 6}});
/// t(1, 2);             // 6, as t.at({1, 2})
/// to_string(t.shape()) // [2 × 3]
/// @endcode
class Tensor {
 public:
  /// Creates an empty tensor; reading a number from it throws NumberError.
  Tensor() = default;

  /// Refuses a line in the place of its numbers, and says where they are.
  template <std::same_as<Line> L>
  explicit Tensor(const L&) {
    static_assert(!std::same_as<L, Line>,
                  "the numbers of a line are its value(): W.value() - 0.1 * g[W]");
  }

  Tensor(const Tensor& other) : shape_(other.shape_), storage_(other.storage_) {
    if (storage_ != nullptr) storage_->join();
  }
  Tensor(Tensor&& other) noexcept
      : shape_(other.shape_), storage_(std::exchange(other.storage_, nullptr)) {}
  Tensor& operator=(const Tensor& other) {
    Tensor copy(other);
    swap(copy);
    return *this;
  }
  Tensor& operator=(Tensor&& other) noexcept {
    Storage* const storage = std::exchange(other.storage_, nullptr);
    if (storage_ != nullptr) storage_->leave();
    storage_ = storage;
    shape_ = other.shape_;
    return *this;
  }
  ~Tensor() {
    if (storage_ != nullptr) storage_->leave();
  }

  /// A tensor with uninitialised numbers, for kernels.
  [[nodiscard]] static Tensor unfilled(const Shape& shape, Precision precision) {
    return Tensor(Holding(), shape, Storage::take(shape.count(), precision));
  }

  /// A sparse matrix (`sparse_matrix`), for kernels.
  [[nodiscard]] static Tensor of(const Shape& shape, std::unique_ptr<SparseNumbers> stored);

  /// Releases the numbers.
  void reset() {
    if (storage_ != nullptr) std::exchange(storage_, nullptr)->leave();
  }

  /// Whether it was default-constructed or moved from.
  [[nodiscard]] bool empty() const { return storage_ == nullptr; }

  [[nodiscard]] const Shape& shape() const { return shape_; }
  [[nodiscard]] std::int64_t count() const { return empty() ? 0 : storage_->count; }

  /// Whether it is a matrix that stores only some numbers; the others are 0. It can be used like
  /// any other.
  [[nodiscard]] bool is_sparse() const { return sparse() != nullptr; }

  /// The stored numbers of a sparse matrix, for kernels; null for any other tensor, and for a
  /// reshaped one.
  [[nodiscard]] const SparseNumbers* sparse() const {
    if (storage_ == nullptr || storage_->sparse == nullptr) return nullptr;
    const bool has_its_shape = shape_.rank() == 2 && shape_[1] == storage_->sparse_columns;
    return has_its_shape ? storage_->sparse : nullptr;
  }

  /// @throws NumberError for an empty tensor, as do all readers below.
  [[nodiscard]] Precision precision() const {
    check_filled();
    return storage_->precision;
  }

  /// The number at an index. @throws IndexError when the index does not fit the shape.
  [[nodiscard]] double at(const Index& index) const;

  /// The same: `t(1, 2)`.
  template <std::convertible_to<std::int64_t>... Places>
  [[nodiscard]] double operator()(Places... places) const {
    return at({static_cast<std::int64_t>(places)...});
  }

  /// The number at an offset from 0 to `count()` − 1. @throws IndexError outside that.
  [[nodiscard]] double at_offset(std::int64_t offset) const;

  /// The only number of a tensor of one. @throws ShapeError when it holds more.
  [[nodiscard]] double number() const;

  /// All numbers, the last axis running fastest.
  [[nodiscard]] std::vector<double> numbers() const;

  /// Writes one number. @throws IndexError when the index does not fit the shape.
  void set(const Index& index, double number);

  /// The same numbers in another shape of as many. Costs nothing.
  /// @throws ShapeError when the counts differ.
  [[nodiscard]] Tensor reshaped(const Shape& shape) const& {
    check_count(shape);
    Tensor result = *this;
    result.shape_ = shape;
    return result;
  }
  [[nodiscard]] Tensor reshaped(const Shape& shape) && {
    check_count(shape);
    Tensor result = std::move(*this);
    result.shape_ = shape;
    return result;
  }

  /// The same numbers with axes labelled, one role an axis.
  [[nodiscard]] Tensor with(std::initializer_list<Role> roles) const;

  /// Sets the role of an axis.
  void label(int axis, Role role) { shape_.set_role(axis, role); }

  /// The same numbers in another precision.
  [[nodiscard]] Tensor in(Precision precision) const;

  /// The rows (positions along axis 0) with these numbers, in this order.
  /// @throws IndexError that names the first row that does not exist.
  [[nodiscard]] Tensor rows(std::span<const std::int64_t> rows) const;

  /// The numbers in memory, for kernels. `T` is `double` or `float`, as the precision says.
  /// @throws NumberError for the other one.
  template <class T>
  [[nodiscard]] const T* data() const {
    check_holds<T>();
    return static_cast<const T*>(storage_->numbers());
  }

  /// The same for writing; copies the numbers first if they are shared.
  template <class T>
  [[nodiscard]] T* writable() {
    check_holds<T>();
    if (!is_alone() || storage_->sparse != nullptr) take_own_copy();
    return static_cast<T*>(storage_->numbers());
  }

  /// Whether no other tensor shares the numbers.
  [[nodiscard]] bool is_alone() const {
    check_filled();
    return storage_->users.load(std::memory_order_acquire) == 1;
  }

  /// Whether shapes and precisions are the same and all numbers have the same bits.
  friend bool operator==(const Tensor& a, const Tensor& b);

 private:
  /// Keeps numbers in braces from being taken for a shape and a storage.
  struct Holding {
    explicit Holding() = default;
  };
  Tensor(Holding, const Shape& shape, Storage* storage) : shape_(shape), storage_(storage) {}
  void swap(Tensor& other) noexcept {
    std::swap(shape_, other.shape_);
    std::swap(storage_, other.storage_);
  }
  void check_filled() const {
    if (storage_ == nullptr) refuse_empty();
  }
  template <class T>
  void check_holds() const {
    static_assert(std::same_as<T, double> || std::same_as<T, float>);
    check_filled();
    constexpr auto asked = std::same_as<T, double> ? Precision::double_ : Precision::single;
    if (storage_->precision != asked) [[unlikely]]
      refuse_precision(asked);
  }
  void check_count(const Shape& shape) const {
    check_filled();
    if (shape.count() != storage_->count) refuse_count(shape);
  }
  [[noreturn]] static void refuse_empty();
  [[noreturn]] void refuse_count(const Shape& shape) const;
  [[noreturn]] void refuse_precision(Precision asked) const;
  void take_own_copy();

  Shape shape_;
  Storage* storage_ = nullptr;
};

namespace detail {

/// Arithmetic types but for letters, which are no numbers.
template <class T>
concept Number =
    std::is_arithmetic_v<T> && !std::same_as<T, char> && !std::same_as<T, wchar_t> &&
    !std::same_as<T, char8_t> && !std::same_as<T, char16_t> && !std::same_as<T, char32_t>;

/// What the parts of a list are, list by list.
template <class List>
inline constexpr bool holds_numbers = false;
template <std::ranges::input_range List>
inline constexpr bool holds_numbers<List> =
    Number<std::ranges::range_value_t<List>> || holds_numbers<std::ranges::range_value_t<List>>;

}  // namespace detail

/// Numbers in braces or in lists such as `std::vector`, nested as deep as the tensor has axes.
class Nested {
 public:
  Nested(double number) : number_(number) {}
  Nested(std::initializer_list<Nested> parts) : parts_(parts), is_list_(true) {}

  template <class List>
  requires detail::holds_numbers<List> Nested(const List& list)
      : parts_(std::ranges::begin(list), std::ranges::end(list)), is_list_(true) {}

  [[nodiscard]] bool is_list() const { return is_list_; }
  [[nodiscard]] double number() const { return number_; }
  [[nodiscard]] std::span<const Nested> parts() const { return parts_; }

 private:
  double number_ = 0.0;
  std::vector<Nested> parts_;
  bool is_list_ = false;
};

/// A tensor from nested numbers: `tensor({{1, 2}, {3, 4}})` is [2 × 2], `tensor(3)` one number.
///
/// @code
/// const std::vector<double> hours = {4.8, 8.5, 2.6};
/// tensor(hours);   // [3]
/// @endcode
/// @throws ShapeError when rows differ in length.
[[nodiscard]] Tensor tensor(const Nested& numbers, Precision precision = Precision::double_);

/// A tensor from a list of numbers. @throws ShapeError when their number does not fit the shape.
[[nodiscard]] Tensor tensor(const Shape& shape, std::span<const double> numbers,
                            Precision precision = Precision::double_);

[[nodiscard]] Tensor zeros(const Shape& shape, Precision precision = Precision::double_);
[[nodiscard]] Tensor ones(const Shape& shape, Precision precision = Precision::double_);
[[nodiscard]] Tensor constant(const Shape& shape, double number,
                              Precision precision = Precision::double_);

/// Ones on the diagonal of a square, zeros elsewhere.
[[nodiscard]] Tensor identity(std::int64_t size, Precision precision = Precision::double_);

/// `count` numbers from `first` to `last`, both included, with equal gaps.
[[nodiscard]] Tensor evenly_spaced(double first, double last, std::int64_t count,
                                   Precision precision = Precision::double_);

/// Normally distributed random numbers with the given mean and standard deviation.
[[nodiscard]] Tensor normal(const Shape& shape, double mean, double standard_deviation,
                            Random& random, Precision precision = Precision::double_);

/// Uniformly distributed random numbers from `low` to `high`.
[[nodiscard]] Tensor uniform(const Shape& shape, double low, double high, Random& random,
                             Precision precision = Precision::double_);

/// The numbers 0 to `count` − 1 in random order.
[[nodiscard]] Tensor random_permutation(std::int64_t count, Random& random,
                                        Precision precision = Precision::double_);

/// Adds the squares of all numbers to a sum, one after another, in double.
[[nodiscard]] double sum_of_squares(const Tensor& x, double sum = 0.0);

/// The largest difference between two numbers at the same index, and that index.
struct Distance {
  double largest = 0.0;
  Index at = {};
};

/// The largest difference of two tensors of one shape; NaN against a number counts as infinite.
/// @throws ShapeError when the shapes differ.
[[nodiscard]] Distance distance(const Tensor& a, const Tensor& b);

}  // namespace lattice
