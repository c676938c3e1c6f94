#pragma once

#include <memory>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

#include "lattice/learning/update.hpp"

/// How an `UpdateRule` holds whatever is `UpdateRuleLike`.
namespace lattice::detail {

[[noreturn]] void refuse_setting(std::string_view rule, std::string_view setting,
                                 const std::vector<RuleSetting>& known);

struct AnyRule {
  AnyRule() = default;
  AnyRule(const AnyRule&) = default;
  AnyRule& operator=(const AnyRule&) = delete;
  virtual ~AnyRule() = default;
  [[nodiscard]] virtual std::unique_ptr<AnyRule> copy() const = 0;
  [[nodiscard]] virtual std::string_view word() const = 0;
  [[nodiscard]] virtual double& rate() = 0;
  virtual void check() const = 0;
  virtual void update(Weights& weights, Gradients gradients, double clip_factor) = 0;
  [[nodiscard]] virtual Explanation explain(const BeforeUpdate& before, const Index& at) const = 0;
  [[nodiscard]] virtual UpdateMemory& memory() = 0;
  [[nodiscard]] virtual std::vector<std::string> memory_names() const = 0;
  [[nodiscard]] virtual std::vector<RuleSetting> settings() const = 0;
  virtual void set(std::string_view setting, double number) = 0;
};

template <UpdateRuleLike R>
struct RuleOf final : AnyRule {
  explicit RuleOf(R rule_) : rule(std::move(rule_)) {}
  [[nodiscard]] std::unique_ptr<AnyRule> copy() const override {
    return std::make_unique<RuleOf>(*this);
  }
  [[nodiscard]] std::string_view word() const override { return R::word; }
  [[nodiscard]] double& rate() override { return rule.rate; }
  void check() const override { rule.check(); }
  void update(Weights& weights, Gradients gradients, double clip_factor) override {
    lattice::update(rule, weights, std::move(gradients), clip_factor);
  }
  [[nodiscard]] Explanation explain(const BeforeUpdate& before, const Index& at) const override {
    return lattice::explain_update(rule, before, at);
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

}  // namespace lattice::detail
