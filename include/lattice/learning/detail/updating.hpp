#pragma once

#include <array>
#include <cstdint>
#include <span>
#include <string_view>
#include <type_traits>
#include <utility>
#include <vector>

#include "lattice/learning/before_update.hpp"
#include "lattice/learning/rule_like.hpp"
#include "lattice/network/weights.hpp"
#include "lattice/worksheet/explain.hpp"
#include "lattice/worksheet/reverse_sweep.hpp"

/// How a rule for one number updates whole weights, and explains it.
namespace lattice::detail {

/// A weight about to be updated, and what its rule remembers of it.
struct Updated {
  Tensor& weight;
  bool decays;
  double rate_multiplier;
  Tensor& gradient;
  UpdateMemory::Entry& memory;
};

/// Finds the weight and the memory that belong to a gradient, and makes a memory of zeros where
/// there is none. @throws NameError, or ShapeError when weight and gradient differ in shape.
/// @param at which gradient it is: its memory usually has the same place, and is looked for there
///           first
[[nodiscard]] Updated find_updated(Weights& weights, UpdateMemory& memory, std::size_t memories,
                                   Gradients::Entry& entry, std::size_t at);

/// Puts running statistics in place. @throws NameError, or ShapeError, as the above.
void put_running(Weights& weights, const std::vector<Gradients::Next>& kept);

/// Where the numbers of an update are: of the weight and its gradient, of what is remembered, and
/// where the new weight goes, which may be where the gradient is.
template <class T, std::size_t memories>
struct UpdatePlaces {
  const T* weight;
  const T* gradient;
  T* to;
  std::array<T*, memories> kept;
};

/// How many numbers are updated at a time; so few that they are kept in registers.
inline constexpr std::int64_t update_block = 32;

/// Updates `length` numbers, at most a block, from one on. `length` may be known to the compiler.
template <class T, UpdateRuleLike R, class Common, class Length>
void update_some(const UpdatePlaces<T, R::memories.size()>& places, const Common& common, T factor,
                 std::int64_t from, Length length) {
  std::array<T, static_cast<std::size_t>(update_block)> fresh;
  for (std::int64_t i = 0; i < length; ++i) {
    UpdateCase<T> now(places.weight[from + i], factor * places.gradient[from + i]);
    for (std::size_t at = 0; at < R::memories.size(); ++at)
      now.set_memory(at, places.kept[at][from + i]);
    fresh[static_cast<std::size_t>(i)] = R::new_weight(now, common);
    for (std::size_t at = 0; at < R::memories.size(); ++at)
      places.kept[at][from + i] = now.memory(at);
  }
  for (std::int64_t i = 0; i < length; ++i)
    places.to[from + i] = fresh[static_cast<std::size_t>(i)];
}

/// A worksheet still shows the weight as it was, so what is new is written beside it: over the
/// gradient, where nobody else holds that.
template <class T, UpdateRuleLike R>
void update_numbers(const R& rule, const Updated& updated, double clip_factor) {
  constexpr std::size_t memories = R::memories.size();
  Tensor fresh;
  if (!updated.gradient.is_alone())
    fresh = Tensor::unfilled(updated.weight.shape(), updated.weight.precision());
  Tensor& after = fresh.empty() ? updated.gradient : fresh;
  UpdatePlaces<T, memories> places{.weight = updated.weight.template data<T>(),
                                   .gradient = updated.gradient.template data<T>(),
                                   .to = after.template writable<T>(),
                                   .kept = {}};
  for (std::size_t at = 0; at < memories; ++at)
    places.kept[at] = updated.memory.tensors[at].template writable<T>();
  const T factor = static_cast<T>(clip_factor);
  const auto common = rule.template common<T>(
      {static_cast<double>(rule.memory.step), updated.decays, updated.rate_multiplier});
  const std::int64_t count = updated.weight.count();
  std::int64_t from = 0;
  for (; from + update_block <= count; from += update_block) {
    update_some<T, R>(places, common, factor, from,
                      std::integral_constant<std::int64_t, update_block>());
  }
  update_some<T, R>(places, common, factor, from, count - from);
  updated.weight = std::move(after).reshaped(updated.weight.shape());
}

/// The formulas that an update starts from.
[[nodiscard]] UpdateCase<Formula> formulas_of(const BeforeUpdate& before,
                                              const UpdateMemory& memory,
                                              std::span<const std::string_view> memories,
                                              const Index& at);
template <class X>
[[nodiscard]] UpdateMoment<X> moment_of(const BeforeUpdate& before, const UpdateMemory& memory) {
  return {static_cast<double>(memory.step + 1), before.weight.decays(),
          before.weight.rate_multiplier};
}
[[nodiscard]] Explanation explanation_of(const BeforeUpdate& before, const Index& at,
                                         Formula formula, double value);

/// One number of a weight after the next update, in its precision.
template <class T, UpdateRuleLike R>
[[nodiscard]] double number_after(const R& rule, const BeforeUpdate& before, const Index& at) {
  const double clip_factor = before.clip_factor ? before.clip_factor->evaluate() : 1.0;
  const T gradient = static_cast<T>(clip_factor) * static_cast<T>(before.gradient.at(at));
  UpdateCase<T> now(static_cast<T>(before.weight.value.at(at)), gradient);
  if (const UpdateMemory::Entry* const kept = rule.memory.find(before.line.name())) {
    for (std::size_t of = 0; of < kept->tensors.size(); ++of)
      now.set_memory(of, static_cast<T>(kept->tensors[of].at(at)));
  }
  return R::new_weight(now, rule.template common<T>(moment_of<T>(before, rule.memory)));
}

}  // namespace lattice::detail
