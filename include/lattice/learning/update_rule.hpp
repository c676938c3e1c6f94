#pragma once

#include <array>
#include <cmath>
#include <concepts>
#include <cstdint>
#include <memory>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

#include "lattice/network/network.hpp"
#include "lattice/worksheet/explain.hpp"
#include "lattice/worksheet/reverse_sweep.hpp"
#include "lattice/worksheet/scalar.hpp"

namespace lattice {

/// The most tensors that a rule remembers for each weight.
inline constexpr std::size_t most_memories = 2;

/// What a rule remembers from one update to the next.
struct UpdateMemory {
  struct Entry {
    std::string weight;
    std::vector<Tensor> tensors;  ///< one for each of the rule's memories, of the weight's shape
  };

  std::int64_t step = 0;  ///< how many updates there have been
  std::vector<Entry> entries = {};

  /// What is remembered of a weight; null before its first update.
  [[nodiscard]] const Entry* find(std::string_view weight) const;
};

/// An update, as far as it is the same for all numbers of a weight. `X` is a number type or
/// `Formula`: the same text updates tensors and explains the update.
template <class X>
class UpdateMoment {
 public:
  /// What settings are worked with before they meet a weight: double, whatever the precision.
  using Exact = std::conditional_t<std::is_same_v<X, Formula>, Formula, double>;

  UpdateMoment(double step, bool decays) : step_(step), decays_(decays) {}

  /// A setting of the rule, shown by its name.
  [[nodiscard]] X setting(std::string_view name, double number) const {
    return once(exact(name, number));
  }

  /// A setting from which something is worked out, in full: `once(1.0 - exact("β1", beta_1))`.
  [[nodiscard]] Exact exact(std::string_view name, double number) const {
    if constexpr (std::is_same_v<X, Formula>) {
      return Formula(
          Cell{.kind = Cell::Kind::setting, .name = std::string(name), .number = number});
    } else {
      return number;
    }
  }

  /// What was worked out of settings, once for all numbers of a weight, and is rounded once.
  [[nodiscard]] X once(const Exact& number) const {
    if constexpr (std::is_same_v<X, Formula>) {
      return Formula::once(number);
    } else {
      return static_cast<X>(number);
    }
  }

  /// Which update this is, from 1.
  [[nodiscard]] Exact step() const { return exact("t", step_); }

  /// True for weights that decay; biases do not.
  [[nodiscard]] bool decays() const { return decays_; }

 private:
  double step_;
  bool decays_;
};

/// One number of a weight in an update, as a rule sees it.
template <class X>
class UpdateCase {
 public:
  UpdateCase(X weight, X gradient) : weight_(std::move(weight)), gradient_(std::move(gradient)) {}

  [[nodiscard]] const X& weight() const { return weight_; }
  [[nodiscard]] const X& gradient() const { return gradient_; }

  /// What was kept in one of the rule's memories; 0 before the first update.
  [[nodiscard]] const X& kept(std::size_t memory) const { return memories_[memory]; }

  /// Keeps a number there for the next update.
  X keep(std::size_t memory, X number) {
    memories_[memory] = number;
    return number;
  }

  void set_memory(std::size_t memory, X number) { memories_[memory] = std::move(number); }

 private:
  X weight_;
  X gradient_;
  std::array<X, most_memories> memories_ = {X(0.0), X(0.0)};
};

/// A number that is shown by its name and told once.
template <class X>
[[nodiscard]] X called(std::string_view name, X number) {
  if constexpr (std::is_same_v<X, Formula>) {
    return Formula::shorthand(std::string(name), std::move(number));
  } else {
    return number;
  }
}

/// What a type has to say to be an update rule:
/// - `word`, and the names of its `memories`;
/// - `common(moment)`: its settings, and what else is the same for all numbers of a weight;
/// - `new_weight(now, common)`: one number of the weight after the update;
/// - `each_setting(visit)`, which calls `visit(name, number)` for each number it is set by, `rate`
///   first; the number is passed by reference;
/// - `check()`, which throws a SettingError for a setting that cannot be.
/// `Descent` is the shortest, `Adam` a full one.
template <class R>
concept UpdateRuleLike = requires(R& rule, const R& fixed, UpdateCase<double>& of_number,
                                  UpdateCase<Formula>& of_formula,
                                  const UpdateMoment<double>& number_moment,
                                  const UpdateMoment<Formula>& formula_moment) {
  { R::word } -> std::convertible_to<std::string_view>;
  { R::memories.size() } -> std::convertible_to<std::size_t>;
  { rule.rate } -> std::convertible_to<double>;
  { rule.memory } -> std::convertible_to<UpdateMemory>;
  {fixed.check()};
  { R::new_weight(of_number, fixed.common(number_moment)) } -> std::convertible_to<double>;
  { R::new_weight(of_formula, fixed.common(formula_moment)) } -> std::convertible_to<Formula>;
  rule.each_setting([](std::string_view, double&) {});
};

/// What a formula calls a memory as it was before the update: `m_before`.
[[nodiscard]] std::string name_before(std::string_view memory);

namespace detail {

/// A weight about to be updated, and what its rule remembers of it.
struct Updated {
  Tensor& weight;
  bool decays;
  Tensor& gradient;
  UpdateMemory::Entry& memory;
};

/// Finds the weight and the memory that belong to a gradient, and makes a memory of zeros where
/// there is none. @throws NameError, or ShapeError when weight and gradient differ in shape.
/// @param at which gradient it is: its memory usually has the same place, and is looked for there
///           first
[[nodiscard]] Updated find_updated(Weights& weights, UpdateMemory& memory, std::size_t memories,
                                   Gradients::Entry& entry, std::size_t at);

/// Puts kept numbers in place. @throws NameError, or ShapeError, as the above.
void put_kept(Weights& weights, const std::vector<Gradients::Next>& kept);

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
      places.kept[at][from + i] = now.kept(at);
  }
  for (std::int64_t i = 0; i < length; ++i)
    places.to[from + i] = fresh[static_cast<std::size_t>(i)];
}

/// A worksheet still shows the weight as it was, so what is new is written beside it: over the
/// gradient, where nobody else holds that.
template <class T, UpdateRuleLike R>
void update_numbers(const R& rule, const Updated& updated, double shrink) {
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
  const T factor = static_cast<T>(shrink);
  const auto common =
      rule.template common<T>({static_cast<double>(rule.memory.step), updated.decays});
  const std::int64_t count = updated.weight.count();
  std::int64_t from = 0;
  for (; from + update_block <= count; from += update_block) {
    update_some<T, R>(places, common, factor, from,
                      std::integral_constant<std::int64_t, update_block>());
  }
  update_some<T, R>(places, common, factor, from, count - from);
  updated.weight = after.reshaped(updated.weight.shape());
}

}  // namespace detail

/// Updates every weight that has a gradient, by a rule, and puts kept numbers in place. A rule's
/// own `update` is this.
/// @param shrink what each gradient is multiplied by first
template <UpdateRuleLike R>
void update_by(R& rule, Weights& weights, Gradients gradients, double shrink = 1.0) {
  ++rule.memory.step;
  std::size_t at = 0;
  for (Gradients::Entry& entry : gradients) {
    const detail::Updated updated =
        detail::find_updated(weights, rule.memory, R::memories.size(), entry, at++);
    if (updated.weight.precision() == Precision::double_) {
      detail::update_numbers<double>(rule, updated, shrink);
    } else {
      detail::update_numbers<float>(rule, updated, shrink);
    }
  }
  detail::put_kept(weights, gradients.kept());
}

/// One weight before an update, and what there is to say about it.
struct BeforeUpdate {
  Line line;  ///< of the weight, in the worksheet that gave the gradient
  Weight weight;
  Tensor gradient;
  /// What the gradient is multiplied by, where its length is limited.
  std::optional<Formula> shrink = std::nullopt;
};

namespace detail {

/// The formulas that an update starts from.
[[nodiscard]] UpdateCase<Formula> formulas_of(const BeforeUpdate& before,
                                              const UpdateMemory& memory,
                                              std::span<const std::string_view> memories,
                                              const Index& at);
template <class X>
[[nodiscard]] UpdateMoment<X> moment_of(const BeforeUpdate& before, const UpdateMemory& memory) {
  return {static_cast<double>(memory.step + 1), !before.weight.is_bias()};
}
[[nodiscard]] Explanation explanation_of(const BeforeUpdate& before, const Index& at,
                                         Formula formula, double value);

/// One number of a weight after the next update, in its precision.
template <class T, UpdateRuleLike R>
[[nodiscard]] double number_after(const R& rule, const BeforeUpdate& before, const Index& at) {
  const double shrink = before.shrink ? before.shrink->evaluate() : 1.0;
  const T gradient = static_cast<T>(shrink) * static_cast<T>(before.gradient.at(at));
  UpdateCase<T> now(static_cast<T>(before.weight.value.at(at)), gradient);
  if (const UpdateMemory::Entry* const kept = rule.memory.find(before.line.name())) {
    for (std::size_t of = 0; of < kept->tensors.size(); ++of)
      now.set_memory(of, static_cast<T>(kept->tensors[of].at(at)));
  }
  return R::new_weight(now, rule.template common<T>(moment_of<T>(before, rule.memory)));
}

}  // namespace detail

/// Explains one number of a weight after the next update by a rule. @throws IndexError when the
/// weight has no such place.
template <UpdateRuleLike R>
[[nodiscard]] Explanation explain_update_by(const R& rule, const BeforeUpdate& before,
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

/// Any update rule. Anything that is `UpdateRuleLike` is one.
///
/// @code
/// UpdateRule rule = Adam{.rate = 0.01};
/// rule.update(net, reverse_sweep(loss));
/// @endcode
class UpdateRule {
 public:
  template <UpdateRuleLike R>
  UpdateRule(R rule) : model_(std::make_unique<Of<R>>(std::move(rule))) {}
  UpdateRule(const UpdateRule& other) : model_(other.model_->copy()) {}
  UpdateRule(UpdateRule&&) noexcept = default;
  UpdateRule& operator=(const UpdateRule& other) {
    model_ = other.model_->copy();
    return *this;
  }
  UpdateRule& operator=(UpdateRule&&) noexcept = default;
  ~UpdateRule() = default;

  /// `descent`, `momentum`, `rms`, `adam`, or the word of a rule of one's own.
  [[nodiscard]] std::string_view word() const { return model_->word(); }

  [[nodiscard]] double rate() const { return model_->rate(); }
  void set_rate(double rate) { model_->rate() = rate; }

  /// @throws SettingError for a setting that cannot be.
  void check() const { model_->check(); }

  /// Updates the weights of a network, and counts the update.
  void update(Network& network, Gradients gradients, double shrink = 1.0) {
    update(network.weights(), std::move(gradients), shrink);
    network.count_update();
  }
  void update(Weights& weights, Gradients gradients, double shrink = 1.0) {
    model_->update(weights, std::move(gradients), shrink);
  }

  /// Explains one number of a weight after the next update. @throws IndexError.
  [[nodiscard]] Explanation explain(const BeforeUpdate& before, const Index& at) const {
    return model_->explain(before, at);
  }

  [[nodiscard]] const UpdateMemory& memory() const { return model_->memory(); }
  void set_memory(UpdateMemory memory) { model_->memory() = std::move(memory); }

  /// What each memory is called: `m`, `v`.
  [[nodiscard]] std::vector<std::string> memory_names() const { return model_->memory_names(); }

  /// All settings, `rate` first.
  [[nodiscard]] std::vector<RuleSetting> settings() const { return model_->settings(); }

  /// @throws NameError for a setting that the rule does not have, saying which there are.
  void set(std::string_view setting, double number) { model_->set(setting, number); }

 private:
  struct Model {
    Model() = default;
    Model(const Model&) = default;
    Model& operator=(const Model&) = delete;
    virtual ~Model() = default;
    [[nodiscard]] virtual std::unique_ptr<Model> copy() const = 0;
    [[nodiscard]] virtual std::string_view word() const = 0;
    [[nodiscard]] virtual double& rate() = 0;
    virtual void check() const = 0;
    virtual void update(Weights& weights, Gradients gradients, double shrink) = 0;
    [[nodiscard]] virtual Explanation explain(const BeforeUpdate& before,
                                              const Index& at) const = 0;
    [[nodiscard]] virtual UpdateMemory& memory() = 0;
    [[nodiscard]] virtual std::vector<std::string> memory_names() const = 0;
    [[nodiscard]] virtual std::vector<RuleSetting> settings() const = 0;
    virtual void set(std::string_view setting, double number) = 0;
  };

  template <UpdateRuleLike R>
  struct Of final : Model {
    explicit Of(R rule_) : rule(std::move(rule_)) {}
    [[nodiscard]] std::unique_ptr<Model> copy() const override {
      return std::make_unique<Of>(*this);
    }
    [[nodiscard]] std::string_view word() const override { return R::word; }
    [[nodiscard]] double& rate() override { return rule.rate; }
    void check() const override { rule.check(); }
    void update(Weights& weights, Gradients gradients, double shrink) override {
      update_by(rule, weights, std::move(gradients), shrink);
    }
    [[nodiscard]] Explanation explain(const BeforeUpdate& before, const Index& at) const override {
      return explain_update_by(rule, before, at);
    }
    [[nodiscard]] UpdateMemory& memory() override { return rule.memory; }
    [[nodiscard]] std::vector<std::string> memory_names() const override {
      return {R::memories.begin(), R::memories.end()};
    }
    [[nodiscard]] std::vector<RuleSetting> settings() const override {
      std::vector<RuleSetting> all;
      R copy = rule;
      copy.each_setting(
          [&](std::string_view name, double& number) { all.emplace_back(name, number); });
      return all;
    }
    void set(std::string_view setting, double number) override {
      bool found = false;
      rule.each_setting([&](std::string_view name, double& place) {
        if (name != setting) return;
        place = number;
        found = true;
      });
      if (!found) refuse_setting(word(), setting, settings());
    }
    R rule;
  };

  [[noreturn]] static void refuse_setting(std::string_view rule, std::string_view setting,
                                          const std::vector<RuleSetting>& known);

  std::unique_ptr<Model> model_;
};

/// The length of all gradients together: the root of the sum of their squares.
[[nodiscard]] double length(const Gradients& gradients);

/// What gradients are multiplied by so that they are no longer than `most`: 1 when they are not.
[[nodiscard]] double shrink_to(const Gradients& gradients, double most);

/// The same as formulas over the gradients of all weights.
struct Shrink {
  Formula length;  ///< `√(∂W[0]² + …)`
  Formula factor;  ///< `min(1, longest/length)`
};
[[nodiscard]] Shrink explain_shrink(std::span<const BeforeUpdate> weights, double most);

}  // namespace lattice
