#include "lattice/network/pass.hpp"

#include <fmt/format.h>

#include <utility>

#include "lattice/network/part.hpp"
#include "lattice/text/error.hpp"

namespace lattice {
namespace {

/// Whether a weight has the name `part.name`.
bool is_called(const Weight& weight, std::string_view part, std::string_view name) {
  const std::string_view full = weight.name;
  if (part.empty()) return full == name;
  return full.size() == part.size() + 1 + name.size() && full.starts_with(part) &&
         full[part.size()] == '.' && full.ends_with(name);
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

/// Parts ask for their weights in the order in which they lie, or nearly so.
const Weight& Pass::find(std::string_view name) {
  const bool is_next = next_ < weights_->size() && is_called(weights_->at(next_), name_, name);
  if (!is_next) next_ = weights_->place(full(name));
  return weights_->at(next_++);
}

Line Pass::weight(std::string_view name) {
  const Weight& weight = find(name);
  if (weight.is_kept) return sheet_->kept(weight.name, weight.value);
  return weight.is_frozen ? sheet_->frozen(weight.name, weight.value)
                          : sheet_->weight(weight.name, weight.value);
}

void Pass::keep(std::string_view name, const Line& next) {
  sheet_->keep(weight(name), next);
}

Line Pass::side(std::string_view name) const {
  try {
    return sheet_->line(name);
  } catch (const NameError& error) {
    throw NameError({.what = fmt::format("{} needs '{}' beside the features", name_, name),
                     .where = fmt::format("part {}", name_),
                     .expected = fmt::format("a side input '{}' of the dataset, or a line of that "
                                             "name in front of the pass",
                                             name),
                     .found = error.trouble().found,
                     .remedy = "data.side.push_back({.name = …, .value = …})"});
  }
}

Line Pass::given(std::string_view name, Tensor value) const {
  return sheet_->given(full(name), std::move(value));
}

Line Pass::through(const Part& part, const std::string& name, const Line& x) {
  const std::string outer = std::exchange(name_, full(name));
  sheet_->section(name_);
  const Line result = part.forward(x, *this);
  const Line line = result == x ? x : named(name_, result);
  name_ = outer;
  return line;
}

}  // namespace lattice
