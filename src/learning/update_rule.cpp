#include "lattice/learning/update_rule.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "lattice/text/error.hpp"
#include "lattice/text/nearest.hpp"

namespace lattice {

const UpdateMemory::Entry* UpdateMemory::find(std::string_view weight) const {
  const auto found = std::ranges::find(entries, weight, &Entry::weight);
  return found == entries.end() ? nullptr : &*found;
}

std::string name_before(std::string_view memory) {
  return fmt::format("{}_before", memory);
}

namespace {

void check_shape(std::string_view rule, const Weight& weight, const Shape& found) {
  if (weight.value.shape() == found) return;
  throw ShapeError({.what = std::string(rule),
                    .where = weight.name,
                    .expected = to_string(weight.value.shape()),
                    .found = to_string(found)});
}

}  // namespace

namespace detail {

void put_running(Weights& weights, const std::vector<Gradients::Next>& kept) {
  for (const Gradients::Next& each : kept) {
    Weight& weight = weights.find(each.name);
    check_shape("a running statistic and what becomes of it have the same shape", weight,
                each.value.shape());
    weight.value = each.value.reshaped(weight.value.shape());
  }
}

Updated find_updated(Weights& weights, UpdateMemory& memory, std::size_t memories,
                     Gradients::Entry& entry, std::size_t at) {
  Weight& found_weight = weights.at(weights.place(entry.weight, at));
  Tensor& weight = found_weight.value;
  check_shape("a weight and its gradient have the same shape", found_weight,
              entry.gradient.shape());
  const auto with = [&](UpdateMemory::Entry& of_weight) {
    return Updated{weight, found_weight.decays(), found_weight.rate_multiplier, entry.gradient,
                   of_weight};
  };
  const bool is_likely =
      at < memory.entries.size() && is_same_name(memory.entries[at].weight, entry.weight);
  if (is_likely) return with(memory.entries[at]);
  const auto found = std::ranges::find(memory.entries, entry.weight, &UpdateMemory::Entry::weight);
  if (found != memory.entries.end()) return with(*found);
  UpdateMemory::Entry fresh{.weight = entry.weight, .tensors = {}};
  for (std::size_t of = 0; of < memories; ++of)
    fresh.tensors.push_back(zeros(weight.shape(), weight.precision()));
  memory.entries.push_back(std::move(fresh));
  return with(memory.entries.back());
}

UpdateCase<Formula> formulas_of(const BeforeUpdate& before, const UpdateMemory& memory,
                                std::span<const std::string_view> memories, const Index& at) {
  const std::string name = before.line.name();
  const Formula weight(Cell{
      .name = name, .at = at, .number = before.weight.value.at(at), .line = before.line.number()});
  Formula gradient(Cell{.kind = Cell::Kind::gradient,
                        .name = name,
                        .at = at,
                        .number = before.gradient.at(at),
                        .line = before.line.number()});
  if (before.clip_factor) gradient = *before.clip_factor * gradient;
  UpdateCase<Formula> now(weight, gradient);
  const UpdateMemory::Entry* const kept = memory.find(name);
  for (std::size_t of = 0; of < memories.size(); ++of) {
    now.set_memory(of, Formula(Cell{.kind = Cell::Kind::remembered,
                                    .name = name_before(memories[of]),
                                    .number = kept == nullptr ? 0.0 : kept->tensors[of].at(at)}));
  }
  return now;
}

Explanation explanation_of(const BeforeUpdate& before, const Index& at, Formula formula,
                           double value) {
  return {.subject = fmt::format("new {}{}", before.line.name(), to_string(at)),
          .formula = std::move(formula),
          .value = value,
          .note = ""};
}

}  // namespace detail

void update(UpdateRule& rule, Weights& weights, Gradients gradients, double clip_factor) {
  rule.rule_->update(weights, std::move(gradients), clip_factor);
}

void detail::refuse_setting(std::string_view rule, std::string_view setting,
                            const std::vector<RuleSetting>& known) {
  std::vector<std::string> names(known.size());
  std::ranges::transform(known, names.begin(), &RuleSetting::first);
  throw NameError(
      not_among(fmt::format("the rule {} has no setting '{}'", rule, setting), setting, names));
}

double norm(const Gradients& gradients) {
  double squares = 0.0;
  for (const Gradients::Entry& entry : gradients)
    squares = sum_of_squares(entry.gradient, squares);
  return std::sqrt(squares);
}

namespace {

/// For numbers and for formulas.
template <class X>
X clip_factor_of(const X& norm, const X& most) {
  return smaller(X(1.0), most / norm);
}

}  // namespace

double clip_factor(const Gradients& gradients, double most) {
  return clip_factor_of(norm(gradients), most);
}

Clipping explain_clipping(std::span<const BeforeUpdate> weights, double most) {
  std::vector<Formula> squares;
  for (const BeforeUpdate& each : weights) {
    const std::string name = each.line.name();
    for (std::int64_t offset = 0; offset < each.gradient.count(); ++offset) {
      squares.push_back(square(Formula(Cell{.kind = Cell::Kind::gradient,
                                            .name = name,
                                            .at = each.gradient.shape().index(offset),
                                            .number = each.gradient.at_offset(offset),
                                            .line = each.line.number()})));
    }
  }
  const auto once = [](std::string name, const Formula& formula) {
    return Formula::once(Formula::shorthand(std::move(name), Formula::once(formula)));
  };
  const Formula norm = once("norm", sqrt(Formula::once(Formula::sum(std::move(squares)))));
  const Formula limit(Cell{.kind = Cell::Kind::setting, .name = "clip_norm", .number = most});
  return {.norm = norm, .factor = once("clip", clip_factor_of(norm, limit))};
}

}  // namespace lattice
