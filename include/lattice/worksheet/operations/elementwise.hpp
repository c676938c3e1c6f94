#pragma once

#include "lattice/worksheet/detail/scalar.hpp"
#include "lattice/worksheet/worksheet.hpp"

/// Operations that work number by number. Each is written once, as a rule: a struct with the
/// function and its derivative, generic in the number type. The kernels call it on whole tensors,
/// `explain` on formulas, tests on numbers.
namespace lattice::elementwise {

/// What operations on every number of one tensor have in common, whatever their rule is.
class UnaryOperation : public Operation {
 public:
  [[nodiscard]] Shape shape(const Inputs& inputs) const final { return inputs.shape(0); }
  [[nodiscard]] Formula element(const Cells& cells, const Index& at) const final;
  [[nodiscard]] Formula reverse_element(const Cells& cells, std::size_t input,
                                        const Index& at) const final;
  [[nodiscard]] std::string symbols(const Symbols& symbols) const final;
  [[nodiscard]] std::string reverse_symbols(const Symbols& symbols, std::size_t input) const final;

 protected:
  ~UnaryOperation() = default;

 private:
  [[nodiscard]] virtual Formula value(const Formula& x) const = 0;

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

/// An operation on every number of one tensor. `Rule` has
/// - `name`, a word;
/// - `value(x)`, the function;
/// - `slope(x, y)`, its derivative at x, where y is `value(x)`; may be `One`, `MinusOne` or `Zero`.
/// It may have `makes_probabilities` or `has_no_value_at_zero` (`OperationNature`).
template <class Rule>
class Unary final : public UnaryOperation {
 public:
  explicit Unary(Rule rule = {}) : rule_(rule) {}

  [[nodiscard]] std::string_view name() const override { return Rule::name; }
  [[nodiscard]] OperationNature nature() const override {
    return {.makes_probabilities = elementwise::makes_probabilities<Rule>,
            .has_no_value_at_zero = elementwise::has_no_value_at_zero<Rule>};
  }
  [[nodiscard]] bool passes_back(std::size_t) const override {
    return !std::is_same_v<decltype(rule_.slope(double{}, double{})), Zero>;
  }
  [[nodiscard]] Tensor forward(const Inputs& inputs, const Shape& shape) const override;
  [[nodiscard]] Tensor reverse(const BackwardStep& step, std::size_t input) const override;

 private:
  [[nodiscard]] Formula value(const Formula& x) const override;
  [[nodiscard]] Formula passed_on(const Formula& gradient, const Formula& x,
                                  const Formula& y) const override;

  [[no_unique_address]] Rule rule_;
};

/// What operations on the numbers of two tensors have in common, whatever their rule is.
class BinaryOperation : public Operation {
 public:
  [[nodiscard]] Shape shape(const Inputs& inputs) const final;
  [[nodiscard]] Formula element(const Cells& cells, const Index& at) const final;
  [[nodiscard]] Formula reverse_element(const Cells& cells, std::size_t input,
                                        const Index& at) const final;
  [[nodiscard]] std::string symbols(const Symbols& symbols) const final;
  [[nodiscard]] std::string reverse_symbols(const Symbols& symbols, std::size_t input) const final;

 protected:
  ~BinaryOperation() = default;

 private:
  [[nodiscard]] virtual Formula value(const Formula& a, const Formula& b) const = 0;

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
template <class Rule>
class Binary final : public BinaryOperation {
 public:
  [[nodiscard]] std::string_view name() const override { return Rule::name; }
  [[nodiscard]] bool passes_back(std::size_t) const override {
    return !std::is_same_v<decltype(Rule::slope_first(double{}, double{}, double{})), Zero>;
  }
  [[nodiscard]] Tensor forward(const Inputs& inputs, const Shape& shape) const override;
  [[nodiscard]] Tensor reverse(const BackwardStep& step, std::size_t input) const override;

 private:
  [[nodiscard]] Formula value(const Formula& a, const Formula& b) const override;
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
  double number = 0.0;

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
