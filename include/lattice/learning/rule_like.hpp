#pragma once

#include <array>
#include <concepts>
#include <cstdint>
#include <string>
#include <string_view>
#include <type_traits>
#include <utility>
#include <vector>

#include "lattice/tensor/tensor.hpp"
#include "lattice/worksheet/formula.hpp"

/// The parts of an update rule.
namespace lattice {

/// The largest number of tensors that a rule remembers for each weight.
inline constexpr std::size_t most_memories = 2;

/// The memory of a rule between updates.
struct UpdateMemory {
  struct Entry {
    std::string weight;
    std::vector<Tensor> tensors;  ///< one for each memory of the rule, of the weight's shape
  };

  std::int64_t step = 0;  ///< the number of updates so far
  std::vector<Entry> entries = {};

  /// The memory of a weight; null before its first update.
  [[nodiscard]] const Entry* find(std::string_view weight) const;
};

/// The part of an update that is the same for all numbers of a weight. `X` is a number type or
/// `Formula`: the same code updates tensors and explains the update.
template <class X>
class UpdateMoment {
 public:
  /// The type for calculations with settings only: double, whatever the precision.
  using Exact = std::conditional_t<std::is_same_v<X, Formula>, Formula, double>;

  /// @param rate_multiplier that of the weight
  UpdateMoment(double step, bool decays, double rate_multiplier = 1.0)
      : step_(step), decays_(decays), rate_multiplier_(rate_multiplier) {}

  /// A setting of the rule, shown by its name. The setting `rate` is that of the weight: the
  /// rule's, times its multiplier.
  [[nodiscard]] X setting(std::string_view name, double number) const {
    return once(exact(name, number));
  }

  /// A setting in full precision, for calculations: `once(1.0 - exact("β1", beta_1))`.
  [[nodiscard]] Exact exact(std::string_view name, double number) const {
    if (rate_multiplier_ != 1.0 && name == "rate")
      return Exact(rate_multiplier_) * plain(name, number);
    return plain(name, number);
  }

  /// A result calculated from settings, once for all numbers of a weight, and rounded once.
  [[nodiscard]] X once(const Exact& number) const {
    if constexpr (std::is_same_v<X, Formula>) {
      return Formula::once(number);
    } else {
      return static_cast<X>(number);
    }
  }

  /// The number of this update, from 1.
  [[nodiscard]] Exact step() const { return exact("t", step_); }

  /// True for weights that decay; biases do not.
  [[nodiscard]] bool decays() const { return decays_; }

 private:
  [[nodiscard]] static Exact plain(std::string_view name, double number) {
    if constexpr (std::is_same_v<X, Formula>) {
      return Formula(
          Cell{.kind = Cell::Kind::setting, .name = std::string(name), .number = number});
    } else {
      return number;
    }
  }

  double step_;
  bool decays_;
  double rate_multiplier_;
};

/// One number of a weight in an update, as a rule sees it.
template <class X>
class UpdateCase {
 public:
  UpdateCase(X weight, X gradient) : weight_(std::move(weight)), gradient_(std::move(gradient)) {}

  [[nodiscard]] const X& weight() const { return weight_; }
  [[nodiscard]] const X& gradient() const { return gradient_; }

  /// The number in one of the rule's memories; 0 before the first update.
  [[nodiscard]] const X& memory(std::size_t memory) const { return memories_[memory]; }

  /// Stores a number there for the next update.
  X remember(std::size_t memory, X number) {
    memories_[memory] = number;
    return number;
  }

  void set_memory(std::size_t memory, X number) { memories_[memory] = std::move(number); }

 private:
  X weight_;
  X gradient_;
  std::array<X, most_memories> memories_ = {X(0.0), X(0.0)};
};

/// A number that is shown by its name, and once with its value.
template <class X>
[[nodiscard]] X called(std::string_view name, X number) {
  if constexpr (std::is_same_v<X, Formula>) {
    return Formula::shorthand(std::string(name), std::move(number));
  } else {
    return number;
  }
}

/// The requirements on an update rule:
/// - `word`, and the names of its `memories`;
/// - `common(moment)`: its settings, and everything else that is the same for all numbers of a
///   weight;
/// - `new_weight(now, common)`: one number of the weight after the update;
/// - `each_setting(visit)`, which calls `visit(name, number)` for each number it is set by, `rate`
///   first; the number is passed by reference;
/// - `check()`, which throws a SettingError for an impossible setting.
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

}  // namespace lattice
