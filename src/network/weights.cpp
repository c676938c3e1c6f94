#include "lattice/network/weights.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "lattice/text/error.hpp"
#include "lattice/text/nearest.hpp"
#include "lattice/text/numbers.hpp"

namespace lattice {

bool is_bias(std::optional<bool> told, const Shape& shape) {
  return told.value_or(shape.rank() < 2);
}

std::optional<std::uint32_t> Weights::by_name(std::string_view name) const {
  return by_name_.find(name, detail::hash_of(name),
                       [this](std::uint32_t at) -> std::string_view { return weights_[at].name; });
}

void Weights::add(Weight weight) {
  if (by_name(weight.name)) {
    throw NameError({.what = fmt::format("two weights called '{}'", weight.name),
                     .expected = "a name of its own for each weight",
                     .found = fmt::format("'{}'", weight.name)});
  }
  by_name_.add(detail::hash_of(weight.name), static_cast<std::uint32_t>(weights_.size()));
  weights_.push_back(std::move(weight));
}

std::size_t Weights::place(std::string_view name, std::size_t likely) const {
  // Among a few weights one is found sooner than a name is hashed.
  constexpr std::size_t few = 6;
  const std::size_t count = weights_.size();
  std::size_t next = likely < count ? likely : 0;
  for (std::size_t tries = count <= few ? count : 1; tries > 0; --tries) {
    if (detail::is_same_name(weights_[next].name, name)) return next;
    if (++next == count) next = 0;
  }
  const std::optional<std::uint32_t> place = by_name(name);
  if (!place) refuse(name);
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

/// The weight of that name, or all those of the layer of that name.
std::vector<Weight*> Weights::of(std::string_view name) {
  std::vector<Weight*> found;
  for (Weight& weight : weights_) {
    const std::string_view whole = weight.name;
    const bool is_of_part = whole.starts_with(name) && whole.substr(name.size()).starts_with('.');
    if (whole == name || is_of_part) found.push_back(&weight);
  }
  if (!found.empty()) return found;
  std::vector<std::string> known;
  for (const Weight& weight : weights_) {
    const std::string layer = weight.name.substr(0, weight.name.rfind('.'));
    if (layer != weight.name && std::ranges::find(known, layer) == known.end())
      known.push_back(layer);
  }
  for (const Weight& weight : weights_)
    known.push_back(weight.name);
  throw NameError(
      not_among(fmt::format("no layer and no weight is called '{}'", name), name, known));
}

void Weights::freeze(std::string_view name, bool frozen) {
  for (Weight* const weight : of(name))
    weight->is_frozen = frozen;
}

void Weights::set_rate_multiplier(std::string_view name, double rate_multiplier) {
  if (!std::isfinite(rate_multiplier) || rate_multiplier <= 0.0) {
    throw SettingError({.what = fmt::format("{} cannot have this rate multiplier", name),
                        .expected = "a number above 0, such as 0.1",
                        .found = format_number(rate_multiplier),
                        .remedy = "freeze it to keep it constant"});
  }
  for (Weight* const weight : of(name))
    weight->rate_multiplier = rate_multiplier;
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

Weights weights_of(const Worksheet& sheet) {
  Weights weights;
  for (const Line& line : sheet.lines()) {
    if (!is_weight(line.kind())) continue;
    weights.add({.name = line.name(),
                 .value = line.value(),
                 .is_frozen = line.kind() == Line::Kind::frozen,
                 .is_running = line.kind() == Line::Kind::running});
  }
  return weights;
}

Worksheet worked_again(const Worksheet& sheet, const Weights& weights) {
  return worked_again(sheet, [&](const Line& line) {
    return is_weight(line.kind()) ? weights[line.name()] : line.value();
  });
}

}  // namespace lattice
