#pragma once

#include <string>
#include <utility>

#include "lattice/learning/before_update.hpp"
#include "lattice/learning/detail/updating.hpp"
#include "lattice/learning/rule_like.hpp"
#include "lattice/network/network.hpp"
#include "lattice/worksheet/explain.hpp"
#include "lattice/worksheet/reverse_sweep.hpp"

namespace lattice {

/// The name of a memory before the update in formulas: `m_before`.
[[nodiscard]] std::string name_before(std::string_view memory);

/// Updates every weight that has a gradient, by a rule, and all running statistics.
///
/// @code
/// Adam rule{.rate = 0.01};
/// update(rule, net, reverse_sweep(loss));
/// @endcode
/// @param clip_factor multiplies each gradient first
template <UpdateRuleLike R>
void update(R& rule, Weights& weights, Gradients gradients, double clip_factor = 1.0) {
  ++rule.memory.step;
  std::size_t at = 0;
  for (Gradients::Entry& entry : gradients) {
    const detail::Updated updated =
        detail::find_updated(weights, rule.memory, R::memories.size(), entry, at++);
    if (updated.weight.precision() == Precision::double_) {
      detail::update_numbers<double>(rule, updated, clip_factor);
    } else {
      detail::update_numbers<float>(rule, updated, clip_factor);
    }
  }
  detail::put_running(weights, gradients.running());
}

/// The same for a network, which counts its updates.
template <class Rule>
void update(Rule& rule, Network& network, Gradients gradients, double clip_factor = 1.0) {
  update(rule, network.weights(), std::move(gradients), clip_factor);
  network.count_update();
}

/// Explains one number of a weight after the next update by a rule. @throws IndexError when the
/// weight has no such place.
template <UpdateRuleLike R>
[[nodiscard]] Explanation explain_update(const R& rule, const BeforeUpdate& before,
                                         const Index& at) {
  UpdateCase<Formula> now = detail::formulas_of(before, rule.memory, R::memories, at);
  const double value = before.weight.value.precision() == Precision::double_
                           ? detail::number_after<double>(rule, before, at)
                           : detail::number_after<float>(rule, before, at);
  const auto common =
      rule.template common<Formula>(detail::moment_of<Formula>(before, rule.memory));
  return detail::explanation_of(before, at, R::new_weight(now, common), value);
}

/// A setting of a rule: its name and its number.
using RuleSetting = std::pair<std::string, double>;

}  // namespace lattice
