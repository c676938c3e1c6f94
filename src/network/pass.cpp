#include "lattice/network/pass.hpp"

#include <fmt/format.h>

#include <utility>

#include "lattice/network/layer.hpp"
#include "lattice/text/error.hpp"

namespace lattice {
namespace {

/// Whether a weight has the name `layer.name`.
bool is_called(const Weight& weight, std::string_view layer, std::string_view name) {
  const std::string_view full = weight.name;
  if (layer.empty()) return full == name;
  return full.size() == layer.size() + 1 + name.size() && full.starts_with(layer) &&
         full[layer.size()] == '.' && full.ends_with(name);
}

}  // namespace

std::string Pass::full(std::string_view name) const {
  std::string full;
  full.reserve(name_.size() + 1 + name.size());
  full.append(name_);
  if (!name_.empty()) full += '.';
  full.append(name);
  return full;
}

/// Layers ask for their weights in the order in which they lie, or nearly so.
const Weight& Pass::find(std::string_view name) {
  const bool is_next = next_ < weights_->size() && is_called(weights_->at(next_), name_, name);
  if (!is_next) next_ = weights_->place(full(name));
  return weights_->at(next_++);
}

Line Pass::weight(std::string_view name) {
  const Weight& weight = find(name);
  if (weight.is_running) return sheet_->running_statistic(weight.name, weight.value);
  return weight.is_frozen ? sheet_->frozen(weight.name, weight.value)
                          : sheet_->weight(weight.name, weight.value);
}

void Pass::set_next(std::string_view name, const Line& next) {
  sheet_->set_next(weight(name), next);
}

Line Pass::side(std::string_view name, std::string_view remedy) const {
  try {
    return sheet_->line(name);
  } catch (const NameError& error) {
    throw NameError({.what = fmt::format("{} needs the side input '{}'", name_, name),
                     .where = fmt::format("layer {}", name_),
                     .expected = fmt::format("a side input '{}' of the dataset, or a line of that "
                                             "name in front of the pass",
                                             name),
                     .found = error.trouble().found,
                     .remedy = std::string(remedy)});
  }
}

Line Pass::given(std::string_view name, Tensor value) const {
  return sheet_->given(full(name), std::move(value));
}

Line Pass::through(const Layer& layer, const std::string& name, const Line& x) {
  const std::string outer = std::exchange(name_, full(name));
  sheet_->section(name_);
  const Line result = layer.forward(x, *this);
  const Line line = result == x ? x : named(name_, result);
  name_ = outer;
  return line;
}

}  // namespace lattice
