#include "lattice/network/weights.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <utility>

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

const Tensor& Weights::operator[](std::string_view name) const {
  for (const Weight& weight : weights_) {
    if (weight.name == name) return weight.value;
  }
  refuse(name);
}

Tensor& Weights::operator[](std::string_view name) {
  return const_cast<Tensor&>(std::as_const(*this)[name]);
}

void Weights::refuse(std::string_view name) const {
  std::vector<std::string> names;
  for (const Weight& weight : weights_)
    names.push_back(weight.name);
  const std::string near = nearest(name, names);
  throw NameError({.what = fmt::format("no weight is called '{}'", name),
                   .expected = fmt::format("one of {}", fmt::join(names, ", ")),
                   .found = fmt::format("'{}'", name),
                   .remedy = near.empty() ? "" : fmt::format("did you mean {}?", near)});
}

}  // namespace lattice
