#pragma once

#include <array>
#include <bit>
#include <cstdint>
#include <initializer_list>
#include <limits>
#include <optional>
#include <span>
#include <string>
#include <string_view>

#include "lattice/text/printing.hpp"
#include "lattice/text/words.hpp"

namespace lattice {

/// The highest number of axes a tensor can have.
inline constexpr int max_rank = 6;

/// The role of an axis, for reading and for messages. Only `example` affects arithmetic: operations
/// that work example by example, such as softmax and the losses, do so along `axis_of_examples`, so
/// that examples may be rows or columns.
enum class Role : std::uint8_t {
  none,
  example,
  feature,
  unit,
  input,  ///< of a layer that takes its bias as an input: units, and last the 1 for the bias
  class_,
  target,  ///< a number to predict
  channel,
  row,
  column,
  node
};

inline constexpr Words<Role> role_words = {
    {Role::none, ""},         {Role::example, "example"}, {Role::feature, "feature"},
    {Role::unit, "unit"},     {Role::input, "input"},     {Role::class_, "class"},
    {Role::target, "target"}, {Role::channel, "channel"}, {Role::row, "row"},
    {Role::column, "column"}, {Role::node, "node"}};

/// The word for a role: `example`, `feature` …; empty for `Role::none`.
[[nodiscard]] constexpr std::string_view word(Role role) {
  return role_words.of(role);
}

/// The word for several of a role: `features`, `classes`; the word given for `Role::none`.
[[nodiscard]] std::string plural(Role role, std::string_view otherwise);

/// A count with its word: `3 features`, `1 class`; for `Role::none` with the given words for one
/// and for several.
[[nodiscard]] std::string counted(std::int64_t count, Role role, std::string_view one,
                                  std::string_view several);

/// The index of one number in a tensor: one position for each axis, counted from 0.
class Index {
 public:
  Index() = default;
  Index(std::initializer_list<std::int64_t> positions);

  /// @throws ShapeError for more than `max_rank` positions.
  explicit Index(std::span<const std::int64_t> positions);

  /// As many zeros as `rank`.
  [[nodiscard]] static Index zeros(int rank);

  [[nodiscard]] int rank() const { return rank_; }

  /// The position along an axis, counted from 0. @throws IndexError for an axis that is not there.
  [[nodiscard]] std::int64_t operator[](int axis) const { return at_[place(axis)]; }
  [[nodiscard]] std::int64_t& operator[](int axis) { return at_[place(axis)]; }

  friend bool operator==(const Index&, const Index&) = default;

  /// An order for sorting: by rank, then by positions.
  friend bool operator<(const Index& a, const Index& b) {
    return a.rank_ != b.rank_ ? a.rank_ < b.rank_ : a.at_ < b.at_;
  }

 private:
  [[nodiscard]] std::size_t place(int axis) const {
    if (axis < 0 || axis >= rank_) [[unlikely]]
      refuse_axis(axis);
    return static_cast<std::size_t>(axis);
  }
  [[noreturn]] void refuse_axis(int axis) const;

  std::array<std::int64_t, max_rank> at_{};
  int rank_ = 0;
};

/// `[4,0]`; empty for an index without positions.
[[nodiscard]] std::string to_string(const Index& index);

/// The extents of a tensor, and the role of each axis.
///
/// @code
/// Shape pots = Shape{16, 3}.with({Role::example, Role::feature});
/// to_string(pots);   // [example 16 × feature 3]
/// @endcode
///
/// A shape fits in 32 bytes, half a cache line, since every line of a worksheet carries one.
class Shape {
 public:
  /// No axes: the shape of a single number.
  Shape() = default;

  /// @throws ShapeError for more than `max_rank` axes, an extent below 1 or above 2³¹ − 1, or more
  ///         numbers than can be counted.
  Shape(std::initializer_list<std::int64_t> extents) {
    const std::int64_t first = extents.size() == 1 ? *extents.begin() : 0;
    if (first >= 1 && first <= most_extent) {
      extents_[0] = static_cast<std::int32_t>(first);
      rank_ = 1;
    } else {
      take(std::span(extents.begin(), extents.size()));
    }
  }
  explicit Shape(std::span<const std::int64_t> extents) { take(extents); }

  /// The same extents with these roles, one an axis.
  /// @throws ShapeError when their number is not the rank.
  [[nodiscard]] Shape with(std::initializer_list<Role> roles) const;

  [[nodiscard]] int rank() const { return rank_; }

  /// The extent of an axis, counted from 0, and its role.
  /// @throws IndexError for an axis that is not there.
  [[nodiscard]] std::int64_t operator[](int axis) const { return extents_[place(axis)]; }
  [[nodiscard]] Role role(int axis) const { return roles_[place(axis)]; }

  /// The same shape with another extent, of 1 or more, on one axis.
  /// @throws ShapeError when it becomes too many numbers.
  [[nodiscard]] Shape with_extent(int axis, std::int64_t extent) const {
    if (extent < 1 || extent > harmless_extent) check_extent(axis, extent);
    Shape shape = *this;
    shape.extents_[place(axis)] = static_cast<std::int32_t>(extent);
    return shape;
  }

  /// The shape of one position along the first axis: of an example, where that is of examples.
  /// @throws ShapeError for no axes.
  [[nodiscard]] Shape without_first_axis() const;

  /// The same shape with one more axis in front.
  [[nodiscard]] Shape with_first_axis(std::int64_t extent, Role role) const;

  void set_role(int axis, Role role) { roles_[place(axis)] = role; }

  /// The number of elements of a tensor of this shape; 1 for no axes.
  [[nodiscard]] std::int64_t count() const {
    std::int64_t product = 1;
    for (size_t axis = 0; axis < rank_; ++axis)
      product *= extents_[axis];
    return product;
  }

  /// The offset of a number when all are stored in order, last axis fastest.
  /// @throws IndexError when the index has another rank or is out of range.
  [[nodiscard]] std::int64_t offset(const Index& index) const;

  /// The index at an offset: the inverse of `offset`.
  [[nodiscard]] Index index(std::int64_t offset) const;

  /// Whether the extents are the same; roles do not matter.
  friend bool operator==(const Shape& a, const Shape& b) {
    using Words = std::array<std::uint64_t, 3>;  // compared without a call
    return a.rank_ == b.rank_ &&
           std::bit_cast<Words>(a.extents_) == std::bit_cast<Words>(b.extents_);
  }

 private:
  static constexpr std::int64_t most_extent = std::numeric_limits<std::int32_t>::max();

  /// Extents up to this one cannot make a tensor that fits into memory too large to be counted.
  static constexpr std::int64_t harmless_extent = 1024;

  void take(std::span<const std::int64_t> extents);
  void check_extent(int axis, std::int64_t extent) const;
  [[nodiscard]] std::size_t place(int axis) const {
    const auto place = static_cast<std::size_t>(axis);
    if (place >= rank_) [[unlikely]]
      refuse_axis(axis);
    return place;
  }
  [[noreturn]] void refuse_axis(int axis) const;

  std::array<std::int32_t, max_rank> extents_{};
  std::array<Role, max_rank> roles_{};
  std::uint8_t rank_ = 0;
  // Up to the last byte, so that a shape is copied as one piece: 31 bytes would be copied as two
  // that overlap, and a processor that reads them again soon waits until both are in memory.
  std::uint8_t unused_ = 0;
};
static_assert(sizeof(Shape) == 32);

/// `[example 16 × feature 3]`, `[16 × 3]` without roles, `[one number]` without axes.
[[nodiscard]] std::string to_string(const Shape& shape);

/// The shape that two shapes are broadcast to: axes are matched from the last; an extent of 1, or a
/// missing axis, is repeated.
/// @throws ShapeError when two extents differ and neither is 1.
[[nodiscard]] Shape broadcast(const Shape& a, const Shape& b);

/// The index in a tensor of shape `from` that is used at `at` of the broadcast shape.
[[nodiscard]] Index before_broadcast(const Shape& from, const Index& at);

/// The axis of examples: the one with that role, or the first if none has it. So losses and answers
/// are the same for examples as rows, [example × class], and as columns, [class × example].
[[nodiscard]] int axis_of_examples(const Shape& shape);

}  // namespace lattice

template <>
struct fmt::formatter<lattice::Index> : lattice::detail::Printed<lattice::Index> {};

template <>
struct fmt::formatter<lattice::Shape> : lattice::detail::Printed<lattice::Shape> {};
