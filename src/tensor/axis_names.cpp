#include "lattice/tensor/axis_names.hpp"

#include <fmt/format.h>

namespace lattice {

const std::string& AxisNames::of(Role role, std::int64_t place) const {
  static const std::string none;
  const std::vector<std::string>* const names = role == Role::feature  ? &features
                                                : role == Role::target ? &targets
                                                : role == Role::class_ ? &classes
                                                : role == Role::node   ? &nodes
                                                                       : nullptr;
  const auto at = static_cast<std::size_t>(place);
  static const std::string bias = "bias";
  if (role == Role::feature && !features.empty() && at == features.size()) return bias;
  return names == nullptr || at >= names->size() ? none : (*names)[at];
}

std::string AxisNames::label(Role role, std::int64_t place) const {
  const std::string& name = of(role, place);
  const std::string number = fmt::format("{}", place);
  // A class that is called like its number needs it once.
  return name.empty() || name == number ? number : fmt::format("{} {}", number, name);
}

std::string AxisNames::in_words(const Shape& shape, const Index& at) const {
  std::string words;
  bool has_name = false;
  for (int axis = 0; axis < shape.rank(); ++axis) {
    const Role role = shape.role(axis);
    if (role == Role::none) continue;
    words += fmt::format("{}{} {}", words.empty() ? "" : ", ", word(role), label(role, at[axis]));
    has_name = has_name || !of(role, at[axis]).empty();
  }
  return has_name ? words : "";
}

std::string AxisNames::label_with_role(Role role, std::int64_t place) const {
  const bool is_plain = role == Role::none || !of(role, place).empty();
  return is_plain ? label(role, place) : fmt::format("{} {}", word(role), place);
}

}  // namespace lattice
