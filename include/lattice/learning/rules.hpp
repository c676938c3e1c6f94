#pragma once

#include <array>
#include <string_view>

#include "lattice/learning/update_rule.hpp"

/// The update rules. Each is written once, generic in the number type, so that the code that
/// updates is the code that is explained. A rule remembers things between updates in `memory`: to
/// resume, use the same rule again; to start over, make a new one.
///
/// Weights of two axes or more can decay in two ways, in all of them:
/// - beside the gradient: rate × `weight_decay` × weight is subtracted from each, independently of
///   the rule (Loshchilov and Hutter, 2019);
/// - in the gradient: `gradient_decay` × weight is added to it before the rule. An L2 term of that
///   strength in the loss is equivalent, unless gradients are clipped: its gradient is clipped with
///   the others, whereas the decay is added afterwards.
/// Under plain descent both agree; under a rule that divides by past gradients they differ.
namespace lattice {

namespace detail {

/// The common part of all rules in one update.
template <class X>
struct Common {
  X rate;
  X weight_decay;
  X gradient_decay;
  bool decays;           ///< beside the gradient
  bool gradient_decays;  ///< in it

  Common(const auto& rule, const UpdateMoment<X>& moment)
      : rate(moment.setting("rate", rule.rate)),
        weight_decay(moment.setting("weight_decay", rule.weight_decay)),
        gradient_decay(moment.setting("gradient_decay", rule.gradient_decay)),
        decays(moment.decays() && rule.weight_decay != 0.0),
        gradient_decays(moment.decays() && rule.gradient_decay != 0.0) {}
};

/// The gradient as the rule uses it.
template <class X>
[[nodiscard]] [[gnu::always_inline]] inline X gradient_of(const UpdateCase<X>& now,
                                                          const auto& common) {
  if (!common.gradient_decays) return now.gradient();
  return called<X>("g", now.gradient() + common.gradient_decay * now.weight());
}

/// The weight after a step and after decay beside the gradient.
template <class X>
[[nodiscard]] X stepped(const X& weight, const X& step, const auto& common) {
  if (!common.decays) return weight - step;
  return weight - step - common.rate * common.weight_decay * weight;
}

}  // namespace detail

/// Plain descent: every weight takes a small step against its gradient.
struct Descent {
  double rate = 0.01;           ///< the learning rate: the step is rate × gradient; above 0
  double weight_decay = 0.0;    ///< beside the gradient; 0 or more
  double gradient_decay = 0.0;  ///< in the gradient; 0 or more
  UpdateMemory memory = {};

  static constexpr std::string_view word = "descent";
  static constexpr std::array<std::string_view, 0> memories = {};

  template <class X>
  [[nodiscard]] auto common(const UpdateMoment<X>& moment) const {
    return detail::Common<X>(*this, moment);
  }

  template <class X>
  [[gnu::always_inline]] static inline X new_weight(UpdateCase<X>& now, const auto& common) {
    return detail::stepped<X>(now.weight(), common.rate * detail::gradient_of(now, common), common);
  }

  void each_setting(auto visit) {
    visit("rate", rate);
    visit("weight_decay", weight_decay);
    visit("gradient_decay", gradient_decay);
  }
  void check() const;
};

/// Descent with momentum: a running sum of gradients, the velocity, which decays at each update.
/// Source: Polyak, 1964.
struct Momentum {
  double rate = 0.01;
  double momentum = 0.9;  ///< momentum coefficient, 0 or more and below 1
  double weight_decay = 0.0;
  double gradient_decay = 0.0;
  UpdateMemory memory = {};

  static constexpr std::string_view word = "momentum";
  static constexpr std::array<std::string_view, 1> memories = {"velocity"};

  template <class X>
  [[nodiscard]] auto common(const UpdateMoment<X>& moment) const {
    struct Common : detail::Common<X> {
      X momentum;
    };
    return Common{{*this, moment}, moment.setting("momentum", momentum)};
  }

  template <class X>
  [[gnu::always_inline]] static inline X new_weight(UpdateCase<X>& now, const auto& common) {
    const X velocity = now.remember(0, called<X>("velocity", common.momentum * now.memory(0) +
                                                                 detail::gradient_of(now, common)));
    return detail::stepped<X>(now.weight(), common.rate * velocity, common);
  }

  void each_setting(auto visit) {
    visit("rate", rate);
    visit("momentum", momentum);
    visit("weight_decay", weight_decay);
    visit("gradient_decay", gradient_decay);
  }
  void check() const;
};

/// Each gradient divided by the root of a running mean of its squares.
/// Source: Tieleman and Hinton, 2012.
struct RmsScaling {
  double rate = 0.001;
  double decay = 0.9;     ///< of the running mean of squares, 0 or more and below 1
  double epsilon = 1e-8;  ///< keeps the divisor above 0
  double weight_decay = 0.0;
  double gradient_decay = 0.0;
  UpdateMemory memory = {};

  static constexpr std::string_view word = "rms";
  static constexpr std::array<std::string_view, 1> memories = {"s"};

  template <class X>
  [[nodiscard]] auto common(const UpdateMoment<X>& moment) const {
    struct Common : detail::Common<X> {
      X decay;
      X rest;
      X epsilon;
    };
    return Common{{*this, moment},
                  moment.setting("decay", decay),
                  moment.once(1.0 - moment.exact("decay", decay)),
                  moment.setting("ε", epsilon)};
  }

  template <class X>
  [[gnu::always_inline]] static inline X new_weight(UpdateCase<X>& now, const auto& common) {
    const X g = detail::gradient_of(now, common);
    const X s =
        now.remember(0, called<X>("s", common.decay * now.memory(0) + common.rest * square(g)));
    const X step = common.rate * g / (sqrt(s) + common.epsilon);
    return detail::stepped<X>(now.weight(), step, common);
  }

  void each_setting(auto visit) {
    visit("rate", rate);
    visit("decay", decay);
    visit("epsilon", epsilon);
    visit("weight_decay", weight_decay);
    visit("gradient_decay", gradient_decay);
  }
  void check() const;
};

/// Running means of gradients and of their squares, both corrected for having started at 0.
/// Source: Kingma and Ba, 2015.
struct Adam {
  double rate = 0.001;
  double beta_1 = 0.9;    ///< decay of the running mean of gradients, 0 or more, below 1
  double beta_2 = 0.999;  ///< decay of the running mean of squares, 0 or more, below 1
  double epsilon = 1e-8;  ///< keeps the divisor above 0
  double weight_decay = 0.0;
  double gradient_decay = 0.0;
  UpdateMemory memory = {};

  static constexpr std::string_view word = "adam";
  static constexpr std::array<std::string_view, 2> memories = {"m", "v"};

  template <class X>
  [[nodiscard]] auto common(const UpdateMoment<X>& moment) const {
    struct Common : detail::Common<X> {
      X first;
      X second;
      X first_rest;
      X second_rest;
      X first_correction;
      X second_correction;
      X epsilon;
    };
    const auto first = moment.exact("β1", beta_1);
    const auto second = moment.exact("β2", beta_2);
    return Common{{*this, moment},
                  moment.once(first),
                  moment.once(second),
                  moment.once(1.0 - first),
                  moment.once(1.0 - second),
                  moment.once(1.0 - pow(first, moment.step())),
                  moment.once(1.0 - pow(second, moment.step())),
                  moment.setting("ε", epsilon)};
  }

  template <class X>
  [[gnu::always_inline]] static inline X new_weight(UpdateCase<X>& now, const auto& common) {
    const X g = detail::gradient_of(now, common);
    const X m =
        now.remember(0, called<X>("m", common.first * now.memory(0) + common.first_rest * g));
    const X v = now.remember(
        1, called<X>("v", common.second * now.memory(1) + common.second_rest * square(g)));
    const X m_corrected = called<X>("m̂", m / common.first_correction);
    const X v_corrected = called<X>("v̂", v / common.second_correction);
    const X step = common.rate * m_corrected / (sqrt(v_corrected) + common.epsilon);
    return detail::stepped<X>(now.weight(), step, common);
  }

  void each_setting(auto visit) {
    visit("rate", rate);
    visit("beta_1", beta_1);
    visit("beta_2", beta_2);
    visit("epsilon", epsilon);
    visit("weight_decay", weight_decay);
    visit("gradient_decay", gradient_decay);
  }
  void check() const;
};

/// The rule with a word, with its default settings: `descent`, `momentum`, `rms`, `adam`.
/// @throws NameError that lists the words.
[[nodiscard]] UpdateRule rule_called(std::string_view word);

// The loops over whole weights are compiled once, in the library.
extern template void update(Descent&, Weights&, Gradients, double);
extern template void update(Momentum&, Weights&, Gradients, double);
extern template void update(RmsScaling&, Weights&, Gradients, double);
extern template void update(Adam&, Weights&, Gradients, double);

// And so is how an `UpdateRule` holds them.
extern template UpdateRule::UpdateRule(Descent);
extern template UpdateRule::UpdateRule(Momentum);
extern template UpdateRule::UpdateRule(RmsScaling);
extern template UpdateRule::UpdateRule(Adam);

}  // namespace lattice
