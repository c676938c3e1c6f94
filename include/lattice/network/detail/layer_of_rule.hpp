#pragma once

#include <string>
#include <string_view>
#include <vector>

#include "lattice/network/layer_like.hpp"
#include "lattice/worksheet/operations/elementwise.hpp"

/// How rules and operations for single numbers become layers of a network.
namespace lattice::detail {

/// The name of a rule as one word of a blueprint: `leaky-relu` for `leaky ReLU`.
[[nodiscard]] std::string blueprint_word(std::string_view name);

/// A word of a blueprint with a number behind it: `leaky-relu 0.1`.
[[nodiscard]] std::string blueprint_text(std::string_view word, double number);

/// A rule applied to every number.
template <UnitRule Rule>
struct EachNumber {
  Rule rule;
  std::string word = blueprint_word(Rule::name);

  [[nodiscard]] std::string_view kind() const { return word; }
  [[nodiscard]] std::string text() const {
    if constexpr (requires { rule.leak; }) {
      return blueprint_text(word, rule.leak);
    } else if constexpr (requires { rule.alpha; }) {
      return blueprint_text(word, rule.alpha);
    } else {
      return word;
    }
  }
  [[nodiscard]] static Shape shape(const Shape& example) { return example; }
  [[nodiscard]] static std::vector<WeightNeed> weights(const Shape&) { return {}; }
  [[nodiscard]] static LayerNature nature() {
    return {.treats_all_alike = true,
            .probabilities =
                elementwise::makes_probabilities<Rule> ? Probabilities::each : Probabilities::none};
  }
  [[nodiscard]] Line forward(const Line& x, Pass&) const {
    return apply(elementwise::Unary<Rule>(rule), x);
  }
};

/// An operation of one's own applied to every number.
template <UnitOperation Operation>
struct EachNumberByOperation {
  Operation operation;

  [[nodiscard]] std::string_view kind() const { return operation.name(); }
  [[nodiscard]] std::string text() const { return std::string(operation.name()); }
  [[nodiscard]] static Shape shape(const Shape& example) { return example; }
  [[nodiscard]] static std::vector<WeightNeed> weights(const Shape&) { return {}; }
  [[nodiscard]] static LayerNature nature() { return {.treats_all_alike = true}; }
  [[nodiscard]] Line forward(const Line& x, Pass&) const { return operation(x); }
};

}  // namespace lattice::detail
