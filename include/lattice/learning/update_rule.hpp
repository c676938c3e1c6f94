#pragma once

#include <memory>
#include <span>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

#include "lattice/learning/detail/any_rule.hpp"
#include "lattice/learning/update.hpp"

namespace lattice {

/// Any update rule. Anything that is `UpdateRuleLike` is one.
///
/// @code
/// UpdateRule rule = Adam{.rate = 0.01};
/// update(rule, net, reverse_sweep(loss));
/// @endcode
class UpdateRule {
 public:
  template <UpdateRuleLike R>
  UpdateRule(R rule) : rule_(std::make_unique<detail::RuleOf<R>>(std::move(rule))) {}
  UpdateRule(const UpdateRule& other) : rule_(other.rule_->copy()) {}
  UpdateRule(UpdateRule&&) noexcept = default;
  UpdateRule& operator=(const UpdateRule& other) {
    rule_ = other.rule_->copy();
    return *this;
  }
  UpdateRule& operator=(UpdateRule&&) noexcept = default;
  ~UpdateRule() = default;

  /// `descent`, `momentum`, `rms`, `adam`, or the word of your own rule.
  [[nodiscard]] std::string_view word() const { return rule_->word(); }

  [[nodiscard]] double rate() const { return rule_->rate(); }
  void set_rate(double rate) { rule_->rate() = rate; }

  /// @throws SettingError for an impossible setting.
  void check() const { rule_->check(); }

  /// Explains one number of a weight after the next update. @throws IndexError.
  [[nodiscard]] Explanation explain(const BeforeUpdate& before, const Index& at) const {
    return rule_->explain(before, at);
  }

  [[nodiscard]] const UpdateMemory& memory() const { return rule_->memory(); }
  void set_memory(UpdateMemory memory) { rule_->memory() = std::move(memory); }

  /// The names of its memories: `m`, `v`.
  [[nodiscard]] std::vector<std::string> memory_names() const { return rule_->memory_names(); }

  /// All settings, `rate` first.
  [[nodiscard]] std::vector<RuleSetting> settings() const { return rule_->settings(); }

  /// @throws NameError that lists the settings, for one that the rule does not have.
  void set(std::string_view setting, double number) { rule_->set(setting, number); }

 private:
  friend void update(UpdateRule& rule, Weights& weights, Gradients gradients, double clip_factor);

  std::unique_ptr<detail::AnyRule> rule_;
};

/// As `update` with any other rule.
void update(UpdateRule& rule, Weights& weights, Gradients gradients, double clip_factor = 1.0);

/// Returns the norm of all gradients together: the root of the sum of their squares.
[[nodiscard]] double norm(const Gradients& gradients);

/// Returns the factor by which clipping multiplies each gradient, so that their norm is at most
/// `most`: 1 if it is not above that.
[[nodiscard]] double clip_factor(const Gradients& gradients, double most);

/// The same as formulas over the gradients of all weights.
struct Clipping {
  Formula norm;    ///< `√(∂W[0]² + …)`
  Formula factor;  ///< `min(1, clip_norm/norm)`
};
[[nodiscard]] Clipping explain_clipping(std::span<const BeforeUpdate> weights, double most);

}  // namespace lattice
