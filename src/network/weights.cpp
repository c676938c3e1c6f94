#include "lattice/network/weights.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "lattice/tensor/error.hpp"
#include "lattice/tensor/text.hpp"

namespace lattice {

void Weights::add(Weight weight) {
  for (const Weight& each : weights_) {
    if (each.name != weight.name) continue;
    throw NameError({.what = fmt::format("two weights called '{}'", weight.name),
                     .expected = "a name of its own for each weight",
                     .found = fmt::format("'{}'", weight.name)});
  }
  weights_.push_back(std::move(weight));
}

const Weight& Weights::find(std::string_view name) const {
  for (const Weight& weight : weights_) {
    if (weight.name == name) return weight;
  }
  refuse(name);
}

const Tensor& Weights::operator[](std::string_view name) const {
  return find(name).value;
}

Tensor& Weights::operator[](std::string_view name) {
  return const_cast<Tensor&>(find(name).value);
}

void Weights::hold(std::string_view name, bool held) {
  const_cast<Weight&>(find(name)).is_held = held;
}

void Weights::refuse(std::string_view name) const {
  std::vector<std::string> names(weights_.size());
  std::ranges::transform(weights_, names.begin(), &Weight::name);
  throw NameError(not_among(fmt::format("no weight is called '{}'", name), name, names));
}

}  // namespace lattice
