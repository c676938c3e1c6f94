#pragma once

#include <fmt/format.h>

#include <cmath>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <vector>

#include "lattice/text/error.hpp"
#include "lattice/worksheet/detail/scalar.hpp"
#include "lattice/worksheet/operations/activations.hpp"
#include "tensor/array_kernels.hpp"
#include "tensor/kernels.hpp"
#include "worksheet/operations/by_example.hpp"
#include "worksheet/operations/shared.hpp"

namespace lattice {

struct Squared {
  static constexpr std::string_view name = "mean squared";
  static constexpr bool takes_scores = false;
  static constexpr double scale = 1.0;
  static auto value(const auto& z, const auto& y) { return square(z - y); }
  static auto slope_first(const auto& z, const auto& y) { return 2 * (z - y); }
  static auto slope_second(const auto& z, const auto& y) { return 2 * (y - z); }
  static void check(const Inputs&) {}
};

struct HalfSquared {
  static constexpr std::string_view name = "half mean squared";
  static constexpr bool takes_scores = false;
  static constexpr double scale = 0.5;
  static auto value(const auto& z, const auto& y) { return square(z - y); }
  static auto slope_first(const auto& z, const auto& y) { return z - y; }
  static auto slope_second(const auto& z, const auto& y) { return y - z; }
  static void check(const Inputs&) {}
};

/// A function that is written by its name alone.
inline Formula called(const char* name, const Formula& x) {
  return Formula::function(name, [](std::span<const double>) { return 0.0; }, {x});
}

struct BinaryCrossEntropy {
  static constexpr std::string_view name = "binary cross-entropy";
  static constexpr bool takes_scores = true;
  static constexpr double scale = 1.0;
  // softplus(s) − s·y, summed so that nothing is lost where the two are large and nearly the same.
  static auto value(const auto& s, const auto& y) {
    using elementwise::exp, elementwise::log1p;
    return larger(s, number_for(s, 0.0)) - s * y + log1p(exp(-abs(s)));
  }
  static auto slope_first(const auto& s, const auto& y) { return Sigmoid::value(s) - y; }
  static auto slope_second(const auto& s, const auto&) { return -s; }
  // In symbols by the names of what it is made of: both are long.
  static Formula value_in_symbols(const Formula& s, const Formula& y) {
    return called("softplus", s) - s * y;
  }
  static Formula slope_first_in_symbols(const Formula& s, const Formula& y) {
    return called("sigmoid", s) - y;
  }
  static constexpr std::string_view worked_as = "max(score, 0) − score·y + log(1 + e^−|score|)";
  // By the probability that is given to what is so: of a label between 0 and 1, to both.
  static Formula value_by_probability(const Cells& cells, const Formula& p, const Formula& y) {
    const std::vector<Formula> by_label = {log(1.0 - p), log(p),
                                           y * log(p) + (1.0 - y) * log(1.0 - p)};
    const Formula which =
        where(y == Formula(0.0), Formula(0.0), where(y == Formula(1.0), Formula(1.0), 2.0));
    return cells.picked(which, std::ssize(by_label),
                        [&](std::int64_t of) { return by_label[static_cast<std::size_t>(of)]; });
  }
  static Formula slope_first_by_probability(const Formula& p, const Formula& y) { return p - y; }
  static void check(const Inputs& inputs) {
    const Tensor& labels = inputs[1];
    for (std::int64_t offset = 0; offset < labels.count(); ++offset) {
      const double label = labels.at_offset(offset);
      if (label >= 0.0 && label <= 1.0) continue;
      throw NumberError({.what = fmt::format("{}: a label that is no probability", name),
                         .where = inputs.place(1, labels.shape().index(offset)),
                         .expected = "0 for one class, 1 for the other, or a number between",
                         .found = format_number(label),
                         .remedy = label == -1.0 ? "labels of −1 and +1 become 0 and 1 with "
                                                   "0.5 * (labels + 1)"
                                                 : ""});
    }
  }
};

/// The mean of a function of guess and truth, number by number. `Rule` has
/// - `takes_scores`, as in `OperationNature`;
/// - `value(z, y)`, and `scale`, a number that the whole mean is multiplied by;
/// - `slope_first(z, y)` and `slope_second(z, y)`, the derivatives of scale·value;
/// - `value_in_symbols` and `slope_first_in_symbols` where these are written otherwise than they
///   are worked;
/// - `worked_as` (`OperationNature`), `value_by_probability(cells, p, y)`, the negative of the
///   value, and `slope_first_by_probability(p, y)`, with the sigmoid p of z, where these are easier
///   to follow;
/// - a check of the truth.
template <class Rule>
class MeanLoss final : public Operation {
 public:
  explicit MeanLoss(bool row_weights) : is_weighted_(row_weights) {}

  /// The function of every pair of numbers.
  [[nodiscard]] static Tensor values(const Tensor& guesses, const Tensor& truth) {
    return kernels::map(
        guesses, [](const auto& z, const auto& y) { return Rule::value(z, y); }, truth);
  }

  [[nodiscard]] std::string_view name() const override { return Rule::name; }
  [[nodiscard]] OperationNature nature() const override {
    OperationNature nature{.takes_scores = Rule::takes_scores, .goes_by_axis = true};
    if constexpr (is_told_by_probability) nature.worked_as = Rule::worked_as;
    return nature;
  }
  [[nodiscard]] bool passes_back(std::size_t input) const override {
    return input != weights_input;
  }

  [[nodiscard]] Shape shape(const Inputs& inputs) const override {
    if (inputs.shape(0) != inputs.shape(1)) {
      throw ShapeError({.what = fmt::format("{}: {} and {} differ in shape", name(),
                                            inputs.describe(0), inputs.describe(1)),
                        .expected = to_string(inputs.shape(0)),
                        .found = to_string(inputs.shape(1)),
                        .remedy = "shape the targets like the guesses, such as [example × 1]"});
    }
    check_counted(name(), inputs);
    Rule::check(inputs);
    return {};
  }

  [[nodiscard]] Tensor forward(const Inputs& inputs, const Shape&) const override {
    if (!is_weighted_) {
      return kernels::mean_of(inputs[0], inputs[1], Rule::scale,
                              [](const auto& z, const auto& y) { return Rule::value(z, y); });
    }
    const Tensor losses = values(inputs[0], inputs[1]);
    const Shape& shape = inputs.shape(0);
    return Rule::scale * sum(losses * beside_examples(normalised_row_weights(inputs), shape)) /
           width(shape);
  }

  [[nodiscard]] Tensor reverse(const BackwardStep& step, std::size_t input) const override {
    const double gradient = step.gradient.number();
    const Shape& shape = step.inputs.shape(0);
    const double factor = gradient / (is_weighted_ ? 1.0 : static_cast<double>(shape.count()));
    const auto times = [&](auto slope) {
      return kernels::map(
          step.inputs[0],
          [&](const auto& z, const auto& y) { return number_for(z, factor) * slope(z, y); },
          step.inputs[1]);
    };
    Tensor slopes =
        input == 0 ? times([](const auto& z, const auto& y) { return Rule::slope_first(z, y); })
                   : times([](const auto& z, const auto& y) { return Rule::slope_second(z, y); });
    if (!is_weighted_) return slopes;
    return slopes * beside_examples(normalised_row_weights(step.inputs), shape) / width(shape);
  }

  [[nodiscard]] Formula element(const Cells& cells, const Index&) const override {
    if constexpr (is_told_by_probability) {
      if (has_probabilities(cells)) {
        return -mean_of(cells, [&](const Index& at) {
          return Rule::value_by_probability(cells, *cells.sigmoid(0, at), cells.input(1, at));
        });
      }
    }
    const Formula mean = mean_of(cells, [&](const Index& at) -> Formula {
      return Rule::value(cells.input(0, at), cells.input(1, at));
    });
    return Rule::scale == 1.0 ? mean : Rule::scale * mean;
  }

  [[nodiscard]] Formula reverse_element(const Cells& cells, std::size_t input,
                                        const Index& at) const override {
    const Formula share =
        is_weighted_
            ? cells.gradient({}) *
                  cells.input(weights_input, {at[axis_of_examples(cells.shape(0))]}) / count(cells)
            : cells.gradient({}) / count(cells);
    const Formula y = cells.input(1, at);
    if constexpr (is_told_by_probability) {
      const std::optional<Formula> p = input == 0 ? cells.sigmoid(0, at) : std::nullopt;
      if (p) return share * Rule::slope_first_by_probability(*p, y);
    }
    const Formula z = cells.input(0, at);
    return share * (input == 0 ? Formula(Rule::slope_first(z, y)) : Rule::slope_second(z, y));
  }

  [[nodiscard]] std::string symbols(const Symbols& symbols) const override {
    if (symbols.are_typed) return loss_call(name(), symbols);
    const std::string where =
        is_weighted_ ? fmt::format("; weighted by {}", symbols.inputs[weights_input]) : "";
    const std::string value = value_in_symbols(symbols).text(number_by_number);
    const std::string scale =
        Rule::scale == 1.0 ? "" : fmt::format("{} × ", format_number(Rule::scale));
    return fmt::format("{}mean({}{})", scale, value, where);
  }

  [[nodiscard]] std::string reverse_symbols(const Symbols& symbols,
                                            std::size_t input) const override {
    const double numbers = width(symbols.shapes[0]);
    const std::string share =
        !is_weighted_ ? ""
        : numbers == 1.0
            ? fmt::format("{0}/sum({0})", symbols.inputs[weights_input])
            : fmt::format("{0}/(sum({0}) × {1})", symbols.inputs[weights_input], numbers);
    return fmt::format("∂{}{} × {}", symbols.result,
                       is_weighted_ ? " × " + share : fmt::format("/{}", symbols.shapes[0].count()),
                       slope_in_symbols(symbols, input));
  }

 private:
  static constexpr bool is_told_by_probability = requires { Rule::worked_as; };

  /// The mean of what `value` gives for each place.
  template <class Value>
  [[nodiscard]] Formula mean_of(const Cells& cells, Value value) const {
    const Shape& shape = cells.shape(0);
    std::vector<Formula> values;
    for (std::int64_t offset = 0; offset < shape.count(); ++offset) {
      const Index at = shape.index(offset);
      const Formula each = value(at);
      values.push_back(
          is_weighted_ ? cells.input(weights_input, {at[axis_of_examples(shape)]}) * each : each);
    }
    return Formula::sum(std::move(values)) / count(cells);
  }

  /// Whether the sigmoid of every score stands above, and its log tells all.
  [[nodiscard]] static bool has_probabilities(const Cells& cells) {
    const Shape& shape = cells.shape(0);
    for (std::int64_t offset = 0; offset < shape.count(); ++offset) {
      const Index at = shape.index(offset);
      const std::optional<Formula> p = cells.sigmoid(0, at);
      if (!p || !log_tells_all(p->evaluate())) return false;
      // Of less than this, 1 − p is rounded too much.
      constexpr double least = 1e-9;
      if (p->evaluate() < least && cells.input(1, at).evaluate() != 1.0) return false;
    }
    return true;
  }

  static Formula value_in_symbols(const Symbols& symbols) {
    const Formula z = symbol(symbols.inputs[0]);
    const Formula y = symbol(symbols.inputs[1]);
    if constexpr (requires { Rule::value_in_symbols(z, y); }) {
      return Rule::value_in_symbols(z, y);
    } else {
      return Rule::value(z, y);
    }
  }

  /// As a factor: in parentheses where it could be misread.
  static std::string slope_in_symbols(const Symbols& symbols, std::size_t input) {
    const Formula z = symbol(symbols.inputs[0]);
    const Formula y = symbol(symbols.inputs[1]);
    const auto slope = [&]() -> Formula {
      if (input == 1) return Rule::slope_second(z, y);
      if constexpr (requires { Rule::slope_first_in_symbols(z, y); }) {
        return Rule::slope_first_in_symbols(z, y);
      } else {
        return Rule::slope_first(z, y);
      }
    }();
    const std::string text = slope.text(number_by_number);
    return slope.kind() == Formula::Kind::product ? text : fmt::format("({})", text);
  }

  /// How many numbers an example has.
  static double width(const Shape& shape) {
    const std::int64_t examples = shape.rank() == 0 ? 1 : shape[axis_of_examples(shape)];
    const std::int64_t numbers = shape.count() / examples;
    return static_cast<double>(numbers);
  }

  /// What the sum of all values is divided by.
  [[nodiscard]] Formula count(const Cells& cells) const {
    const Shape& shape = cells.shape(0);
    if (!is_weighted_) return static_cast<double>(shape.count());
    const Formula total = total_weight(cells, is_weighted_);
    return width(shape) == 1.0 ? total : total * width(shape);
  }

  bool is_weighted_;
};

}  // namespace lattice
