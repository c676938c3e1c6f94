#pragma once

#include <span>
#include <string>
#include <vector>

#include "lattice/worksheet/detail/scalar.hpp"
#include "lattice/worksheet/worksheet.hpp"

/// Operations that work number by number. Each is written once, as a rule: a struct with the
/// function and its derivative, generic in the number type. The kernels call it on whole tensors,
/// `explain` on formulas, tests on numbers.
namespace lattice::elementwise {

/// An operation as it is typed in a sheet: `max({}, {})` with its inputs and numbers in place of
/// the braces, one after another. Without a form it is a function of its name.
[[nodiscard]] std::string typed_as(std::string_view form, std::string_view name,
                                   std::span<const std::string> parts);
[[nodiscard]] std::string typed_number(double number);

/// The form of a rule; empty where it has none.
template <class Rule>
[[nodiscard]] constexpr std::string_view typed_form() {
  if constexpr (requires { Rule::typed; }) {
    return Rule::typed;
  } else {
    return {};
  }
}

/// What the result of a rule is called (`OperationNature`); empty where its name says it.
template <class Rule>
[[nodiscard]] constexpr std::string_view what_it_gives() {
  if constexpr (requires { Rule::gives; }) {
    return Rule::gives;
  } else {
    return {};
  }
}

/// What operations on every number of one tensor have in common, whatever their rule is.
class UnaryOperation : public Operation {
 public:
  [[nodiscard]] Shape shape(const Inputs& inputs) const final { return inputs.shape(0); }
  [[nodiscard]] Passing passing(std::size_t) const final {
    return {.kind = Passing::Kind::number_by_number};
  }
  [[nodiscard]] Formula element(const Cells& cells, const Index& at) const final;
  [[nodiscard]] Formula reverse_element(const Cells& cells, std::size_t input,
                                        const Index& at) const final;
  [[nodiscard]] std::string symbols(const Symbols& symbols) const final;
  [[nodiscard]] std::string reverse_symbols(const Symbols& symbols, std::size_t input) const final;

 protected:
  ~UnaryOperation() = default;

 private:
  [[nodiscard]] virtual Formula value(const Formula& x) const = 0;
  [[nodiscard]] virtual std::string typed(const std::string& x) const = 0;

  /// What is passed to the input where the result has this `gradient`, with y = value(x).
  [[nodiscard]] virtual Formula passed_on(const Formula& gradient, const Formula& x,
                                          const Formula& y) const = 0;
};

/// What a rule may say of itself beside its function.
template <class Rule>
inline constexpr bool makes_probabilities = requires {
  Rule::makes_probabilities;
};
template <class Rule>
inline constexpr bool has_no_value_at_zero = requires {
  Rule::has_no_value_at_zero;
};
template <class Rule>
inline constexpr bool is_sigmoid = requires {
  Rule::is_sigmoid;
};
template <class Rule>
inline constexpr bool multiplies_numbers = requires {
  Rule::multiplies_numbers;
};

/// An operation on every number of one tensor. `Rule` has
/// - `name`, a word;
/// - `value(x)`, the function;
/// - `slope(x, y)`, its derivative at x, where y is `value(x)`; may be `One`, `MinusOne` or `Zero`.
/// It may have `gives`, `makes_probabilities`, `is_sigmoid` or `has_no_value_at_zero`
/// (`OperationNature`);
/// `typed`, how it is written in a sheet: `leaky_relu({}; {})`; and `numbers()`, the settings that
/// stand in there behind x.
template <class Rule>
class Unary final : public UnaryOperation {
 public:
  explicit Unary(Rule rule = {}) : rule_(rule) {}

  [[nodiscard]] std::string_view name() const override { return Rule::name; }
  [[nodiscard]] OperationNature nature() const override {
    return {.makes_probabilities = elementwise::makes_probabilities<Rule>,
            .is_sigmoid = elementwise::is_sigmoid<Rule>,
            .has_no_value_at_zero = elementwise::has_no_value_at_zero<Rule>,
            .goes_by_axis = true,
            .gives = what_it_gives<Rule>()};
  }
  [[nodiscard]] bool passes_back(std::size_t) const override {
    return !std::is_same_v<decltype(rule_.slope(double{}, double{})), Zero>;
  }
  [[nodiscard]] Tensor forward(const Inputs& inputs, const Shape& shape) const override;
  [[nodiscard]] Tensor reverse(const BackwardStep& step, std::size_t input) const override;

 private:
  [[nodiscard]] Formula value(const Formula& x) const override;
  [[nodiscard]] std::string typed(const std::string& x) const override {
    if constexpr (requires { rule_.typed_with(x); }) {
      return rule_.typed_with(x);
    } else {
      std::vector<std::string> parts = {x};
      if constexpr (requires { rule_.numbers(); }) {
        for (const double number : rule_.numbers())
          parts.push_back(typed_number(number));
      }
      return typed_as(typed_form<Rule>(), Rule::name, parts);
    }
  }
  [[nodiscard]] Formula passed_on(const Formula& gradient, const Formula& x,
                                  const Formula& y) const override;

  [[no_unique_address]] Rule rule_;
};

/// What operations on the numbers of two tensors have in common, whatever their rule is.
class BinaryOperation : public Operation {
 public:
  [[nodiscard]] Shape shape(const Inputs& inputs) const final;
  [[nodiscard]] Passing passing(std::size_t) const final {
    return {.kind = Passing::Kind::number_by_number};
  }
  [[nodiscard]] Formula element(const Cells& cells, const Index& at) const final;
  [[nodiscard]] Formula reverse_element(const Cells& cells, std::size_t input,
                                        const Index& at) const final;
  [[nodiscard]] std::string symbols(const Symbols& symbols) const final;
  [[nodiscard]] std::string reverse_symbols(const Symbols& symbols, std::size_t input) const final;

 protected:
  ~BinaryOperation() = default;

 private:
  [[nodiscard]] virtual Formula value(const Formula& a, const Formula& b) const = 0;
  [[nodiscard]] virtual std::string typed(const std::string& a, const std::string& b) const = 0;

  /// What is passed to one of the two where the result has this `gradient`, with y = value(a, b).
  [[nodiscard]] virtual Formula passed_on(std::size_t input, const Formula& gradient,
                                          const Formula& a, const Formula& b,
                                          const Formula& y) const = 0;
};

/// An operation on the numbers of two tensors, stretched to one shape (`broadcast`). `Rule` has
/// - `name`, a word;
/// - `value(a, b)`, the function;
/// - `slope_first(a, b, y)` and `slope_second(a, b, y)`, its derivatives by a and by b, where y is
///   `value(a, b)`; may be `One` or `MinusOne`, or both `Zero`.
/// It may have `gives` or `multiplies_numbers` (`OperationNature`), and `typed`, as those of one
/// tensor do: `max({}, {})`.
template <class Rule>
class Binary final : public BinaryOperation {
 public:
  [[nodiscard]] std::string_view name() const override { return Rule::name; }
  [[nodiscard]] OperationNature nature() const override {
    return {.multiplies_numbers = elementwise::multiplies_numbers<Rule>,
            .goes_by_axis = true,
            .gives = what_it_gives<Rule>()};
  }
  [[nodiscard]] bool passes_back(std::size_t) const override {
    return !std::is_same_v<decltype(Rule::slope_first(double{}, double{}, double{})), Zero>;
  }
  [[nodiscard]] Tensor forward(const Inputs& inputs, const Shape& shape) const override;
  [[nodiscard]] Tensor reverse(const BackwardStep& step, std::size_t input) const override;

 private:
  [[nodiscard]] Formula value(const Formula& a, const Formula& b) const override;
  [[nodiscard]] std::string typed(const std::string& a, const std::string& b) const override {
    return typed_as(typed_form<Rule>(), Rule::name, std::vector{a, b});
  }
  [[nodiscard]] Formula passed_on(std::size_t input, const Formula& gradient, const Formula& a,
                                  const Formula& b, const Formula& y) const override;
};

/// Which side of a binary operation a plain number stands on.
enum class Side { first, second };

/// The rule of a binary operation with a plain number on one side, as a rule of the other side
/// alone: `0.5 * x`, `1 - x`.
template <class Rule, Side side>
struct WithNumber {
  static constexpr std::string_view name = Rule::name;
  static constexpr std::string_view gives = what_it_gives<Rule>();
  double number = 0.0;

  [[nodiscard]] std::string typed_with(const std::string& x) const {
    const std::string text = typed_number(number);
    const bool is_first = side == Side::first;
    return typed_as(typed_form<Rule>(), name,
                    std::vector{is_first ? text : x, is_first ? x : text});
  }

  auto value(const auto& x) const {
    if constexpr (side == Side::first) {
      return Rule::value(number_for(x, number), x);
    } else {
      return Rule::value(x, number_for(x, number));
    }
  }
  auto slope(const auto& x, const auto& y) const {
    if constexpr (side == Side::first) {
      return Rule::slope_second(number_for(x, number), x, y);
    } else {
      return Rule::slope_first(x, number_for(x, number), y);
    }
  }
};

}  // namespace lattice::elementwise
