#include "lattice/tensor/shape.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <vector>

#include "lattice/text/error.hpp"
#include "text/counted.hpp"

namespace lattice {
namespace {

/// More numbers than any memory holds, and few enough for their bytes to be counted.
constexpr std::int64_t most_numbers = std::int64_t{1} << 40;

void check_rank(size_t axes) {
  if (axes > max_rank) {
    throw ShapeError({.what = "too many axes",
                      .expected = fmt::format("at most {} axes", max_rank),
                      .found = counted(static_cast<std::int64_t>(axes), "axis", "axes")});
  }
}

/// Which axes there are, for messages.
std::string axes_from_0(int rank) {
  return rank == 0 ? "nothing: it has no axes" : fmt::format("an axis from 0 to {}", rank - 1);
}

}  // namespace

std::string plural(Role role, std::string_view otherwise) {
  if (role == Role::none) return std::string(otherwise);
  return std::string(word(role)) + (role == Role::class_ ? "es" : "s");
}

std::string counted(std::int64_t count, Role role, std::string_view one, std::string_view several) {
  if (count != 1) return fmt::format("{} {}", count, plural(role, several));
  return fmt::format("1 {}", role == Role::none ? one : word(role));
}

Index::Index(std::initializer_list<std::int64_t> positions)
    : Index(std::span(positions.begin(), positions.size())) {}

Index::Index(std::span<const std::int64_t> positions) : rank_(static_cast<int>(positions.size())) {
  check_rank(positions.size());
  std::ranges::copy(positions, at_.begin());
}

void Index::refuse_axis(int axis) const {
  throw IndexError(
      {.what = fmt::format("an index of {} has no axis {}", counted(rank_, "position"), axis),
       .expected = axes_from_0(rank_),
       .found = fmt::format("axis {}", axis)});
}

Index Index::zeros(int rank) {
  Index index;
  index.rank_ = rank;
  return index;
}

std::string to_string(const Index& index) {
  if (index.rank() == 0) return "";
  std::string text = "[";
  for (int axis = 0; axis < index.rank(); ++axis) {
    text += fmt::format("{}{}", axis == 0 ? "" : ",", index[axis]);
  }
  return text + "]";
}

void Shape::take(std::span<const std::int64_t> extents) {
  check_rank(extents.size());
  std::int64_t count = 1;
  for (const std::int64_t extent : extents) {
    if (extent < 1) {
      throw ShapeError({.what = fmt::format("axis {} of a shape is empty", int{rank_}),
                        .expected = "an extent of 1 or more on every axis",
                        .found = fmt::format("[{}]", fmt::join(extents, " × "))});
    }
    if (extent > most_extent || __builtin_mul_overflow(count, extent, &count) ||
        count > most_numbers) {
      throw ShapeError({.what = "a shape has too many numbers",
                        .found = fmt::format("[{}]", fmt::join(extents, " × "))});
    }
    extents_[rank_++] = static_cast<std::int32_t>(extent);
  }
}

void Shape::refuse_axis(int axis) const {
  throw IndexError({.what = fmt::format("{} has no axis {}", to_string(*this), axis),
                    .expected = axes_from_0(rank()),
                    .found = fmt::format("axis {}", axis)});
}

Shape Shape::with(std::initializer_list<Role> roles) const {
  if (roles.size() != rank_) {
    throw ShapeError(
        {.what = "the number of roles does not match the axes",
         .expected = fmt::format("{} for {}", counted(rank_, "role"), to_string(*this)),
         .found = counted(std::ssize(roles), "role")});
  }
  Shape shape = *this;
  std::ranges::copy(roles, shape.roles_.begin());
  return shape;
}

void Shape::check_extent(int axis, std::int64_t extent) const {
  if (extent < 1 || extent > most_extent) {
    throw ShapeError(
        {.what = fmt::format("axis {} of {} cannot have this extent", axis, to_string(*this)),
         .expected = "1 to 2³¹ − 1",
         .found = fmt::format("{}", extent)});
  }
  if (extent <= most_numbers / (count() / (*this)[axis])) return;
  Shape shape = *this;
  shape.extents_[place(axis)] = static_cast<std::int32_t>(extent);
  throw ShapeError({.what = "a shape has too many numbers", .found = to_string(shape)});
}

Shape Shape::without_first_axis() const {
  if (rank_ == 0) throw ShapeError({.what = "a single number has no first axis"});
  Shape rest;
  rest.rank_ = static_cast<std::uint8_t>(rank_ - 1);
  std::copy(extents_.begin() + 1, extents_.end(), rest.extents_.begin());
  std::copy(roles_.begin() + 1, roles_.end(), rest.roles_.begin());
  return rest;
}

Shape Shape::with_first_axis(std::int64_t extent, Role role) const {
  std::vector<std::int64_t> extents = {extent};
  extents.insert(extents.end(), extents_.begin(), extents_.begin() + rank_);
  Shape more{std::span<const std::int64_t>(extents)};
  more.set_role(0, role);
  for (int axis = 0; axis < rank_; ++axis)
    more.set_role(axis + 1, this->role(axis));
  return more;
}

std::int64_t Shape::offset(const Index& index) const {
  if (index.rank() != rank()) {
    throw IndexError(
        {.what = "the index has the wrong number of positions",
         .expected = fmt::format("{} for {}", counted(rank(), "position"), to_string(*this)),
         .found = fmt::format("{}{}{}", counted(index.rank(), "position"),
                              index.rank() == 0 ? "" : ": ", to_string(index))});
  }
  std::int64_t offset = 0;
  for (int axis = 0; axis < rank(); ++axis) {
    if (index[axis] < 0 || index[axis] >= (*this)[axis]) {
      const std::string_view role = word(this->role(axis));
      throw IndexError({.what = fmt::format("{} is outside {}", to_string(index), to_string(*this)),
                        .where = role.empty() ? fmt::format("axis {}", axis)
                                              : fmt::format("axis {}, {}", axis, role),
                        .expected = fmt::format("0 to {}", (*this)[axis] - 1),
                        .found = fmt::format("{}", index[axis])});
    }
    offset = offset * (*this)[axis] + index[axis];
  }
  return offset;
}

Index Shape::index(std::int64_t offset) const {
  Index index = Index::zeros(rank());
  for (int axis = rank() - 1; axis >= 0; --axis) {
    index[axis] = offset % (*this)[axis];
    offset /= (*this)[axis];
  }
  return index;
}

std::string to_string(const Shape& shape) {
  if (shape.rank() == 0) return "[one number]";
  std::string text = "[";
  for (int axis = 0; axis < shape.rank(); ++axis) {
    const std::string_view role = word(shape.role(axis));
    text +=
        fmt::format("{}{}{}{}", axis == 0 ? "" : " × ", role, role.empty() ? "" : " ", shape[axis]);
  }
  return text + "]";
}

namespace {

/// Refuses two shapes of which an axis of one does not fit an axis of the other.
[[noreturn]] void refuse_broadcast(const Shape& a, int in_a, const Shape& b, int in_b) {
  const auto fits_as_column = [](const Shape& column, const Shape& table) {
    return column.rank() == 1 && table.rank() == 2 && column[0] == table[0];
  };
  const bool a_is_column = fits_as_column(a, b);
  throw ShapeError(
      {.what = fmt::format("{} and {} cannot be broadcast together", to_string(a), to_string(b)),
       .where = fmt::format("axis {} of the first, axis {} of the second", in_a, in_b),
       .expected =
           "the same extent on both axes, or 1 on one of them; axes are matched from the last",
       .found = fmt::format("{} and {}", counted(a[in_a], a.role(in_a), "number", "numbers"),
                            counted(b[in_b], b.role(in_b), "number", "numbers")),
       .remedy = a_is_column || fits_as_column(b, a)
                     ? fmt::format("to have one for each row, shape the {} as a column, [{} × 1]",
                                   a_is_column ? "first" : "second", a_is_column ? a[0] : b[0])
                     : ""});
}

}  // namespace

Shape broadcast(const Shape& a, const Shape& b) {
  if (a == b) {
    Shape shape = a;
    for (int axis = 0; axis < shape.rank(); ++axis) {
      if (shape.role(axis) == Role::none) shape.set_role(axis, b.role(axis));
    }
    return shape;
  }
  if (b.count() == 1 && b.rank() <= a.rank()) return a;
  const int rank = std::max(a.rank(), b.rank());
  std::array<std::int64_t, max_rank> extents{};
  std::array<Role, max_rank> roles{};
  for (int axis = 0; axis < rank; ++axis) {
    const int in_a = axis - (rank - a.rank());
    const int in_b = axis - (rank - b.rank());
    const std::int64_t from_a = in_a < 0 ? 1 : a[in_a];
    const std::int64_t from_b = in_b < 0 ? 1 : b[in_b];
    if (from_a != from_b && from_a != 1 && from_b != 1) refuse_broadcast(a, in_a, b, in_b);
    const auto slot = static_cast<size_t>(axis);
    extents[slot] = std::max(from_a, from_b);
    if (in_a >= 0 && from_a == extents[slot]) roles[slot] = a.role(in_a);
    if (roles[slot] == Role::none && in_b >= 0 && from_b == extents[slot]) {
      roles[slot] = b.role(in_b);
    }
  }
  Shape shape(std::span(extents.data(), static_cast<size_t>(rank)));
  for (int axis = 0; axis < rank; ++axis)
    shape.set_role(axis, roles[static_cast<size_t>(axis)]);
  return shape;
}

Index before_broadcast(const Shape& from, const Index& at) {
  Index index = Index::zeros(from.rank());
  for (int axis = 0; axis < from.rank(); ++axis) {
    index[axis] = from[axis] == 1 ? 0 : at[axis + at.rank() - from.rank()];
  }
  return index;
}

int axis_of_examples(const Shape& shape) {
  for (int axis = 0; axis < shape.rank(); ++axis) {
    if (shape.role(axis) == Role::example) return axis;
  }
  return 0;
}

}  // namespace lattice
