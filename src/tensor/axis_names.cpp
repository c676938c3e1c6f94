#include "lattice/tensor/axis_names.hpp"

#include <fmt/format.h>

#include <iterator>

namespace lattice {
namespace {

/// A class that is called like its number needs it once.
std::string label_called(const std::string& name, std::int64_t place) {
  const std::string number = fmt::format("{}", place);
  return name.empty() || name == number ? number : fmt::format("{} {}", number, name);
}

}  // namespace

const std::string& AxisNames::of(Role role, std::int64_t place) const {
  static const std::string none;
  const std::vector<std::string>* const names = role == Role::feature  ? &features
                                                : role == Role::target ? &targets
                                                : role == Role::class_ ? &classes
                                                : role == Role::node   ? &nodes
                                                                       : nullptr;
  const auto at = static_cast<std::size_t>(place);
  return names == nullptr || at >= names->size() ? none : (*names)[at];
}

const std::string& AxisNames::of(const Shape& shape, int axis, std::int64_t place) const {
  static const std::string bias = "bias";
  const Role role = shape.role(axis);
  const bool is_behind_features =
      role == Role::feature && !features.empty() && place == std::ssize(features);
  const bool is_behind_units = role == Role::input && place == shape[axis] - 1;
  return is_behind_features || is_behind_units ? bias : of(role, place);
}

std::string AxisNames::label(Role role, std::int64_t place) const {
  return label_called(of(role, place), place);
}

std::string AxisNames::label(const Shape& shape, int axis, std::int64_t place) const {
  return label_called(of(shape, axis, place), place);
}

std::string AxisNames::in_words(const Shape& shape, const Index& at) const {
  std::string words;
  bool has_name = false;
  for (int axis = 0; axis < shape.rank(); ++axis) {
    const Role role = shape.role(axis);
    if (role == Role::none) continue;
    words +=
        fmt::format("{}{} {}", words.empty() ? "" : ", ", word(role), label(shape, axis, at[axis]));
    has_name = has_name || !of(shape, axis, at[axis]).empty();
  }
  return has_name ? words : "";
}

std::string AxisNames::label_with_role(const Shape& shape, int axis, std::int64_t place) const {
  const Role role = shape.role(axis);
  const bool is_plain = role == Role::none || !of(shape, axis, place).empty();
  return is_plain ? label(shape, axis, place) : fmt::format("{} {}", word(role), place);
}

}  // namespace lattice
