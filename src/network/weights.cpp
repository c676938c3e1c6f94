#include "lattice/network/weights.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "lattice/text/error.hpp"
#include "lattice/text/nearest.hpp"

namespace lattice {

bool is_bias(std::optional<bool> told, const Shape& shape) {
  return told.value_or(shape.rank() < 2);
}

std::vector<std::size_t>::const_iterator Weights::by_name(std::string_view name) const {
  return std::ranges::lower_bound(
      by_name_, name, {}, [this](std::size_t at) -> std::string_view { return weights_[at].name; });
}

void Weights::add(Weight weight) {
  const auto place = by_name(weight.name);
  if (place != by_name_.end() && weights_[*place].name == weight.name) {
    throw NameError({.what = fmt::format("two weights called '{}'", weight.name),
                     .expected = "a name of its own for each weight",
                     .found = fmt::format("'{}'", weight.name)});
  }
  by_name_.insert(place, weights_.size());
  weights_.push_back(std::move(weight));
}

std::size_t Weights::place(std::string_view name, std::size_t likely) const {
  if (likely < weights_.size() && weights_[likely].name == name) return likely;
  const auto place = by_name(name);
  if (place == by_name_.end() || weights_[*place].name != name) refuse(name);
  return *place;
}

const Weight& Weights::find(std::string_view name) const {
  return weights_[place(name)];
}

Weight& Weights::find(std::string_view name) {
  return weights_[place(name)];
}

const Tensor& Weights::operator[](std::string_view name) const {
  return find(name).value;
}

Tensor& Weights::operator[](std::string_view name) {
  return find(name).value;
}

void Weights::hold(std::string_view name, bool held) {
  find(name).is_held = held;
}

void Weights::take_numbers_of(const Weights& others) {
  for (Weight& weight : weights_)
    weight.value = others[weight.name];
}

void Weights::refuse(std::string_view name) const {
  std::vector<std::string> names(weights_.size());
  std::ranges::transform(weights_, names.begin(), &Weight::name);
  throw NameError(not_among(fmt::format("no weight is called '{}'", name), name, names));
}

}  // namespace lattice
