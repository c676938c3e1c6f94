#pragma once

#include <fmt/format.h>

#include <cmath>
#include <functional>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <vector>

#include "lattice/text/error.hpp"
#include "lattice/worksheet/operations/along_axes.hpp"
#include "lattice/worksheet/operations/arithmetic.hpp"
#include "tensor/array_kernels.hpp"
#include "tensor/cross_entropy_kernels.hpp"
#include "worksheet/operations/by_example.hpp"
#include "worksheet/operations/shared.hpp"

namespace lattice {

/// What cross-entropy is told of the truth: a class a row, or what each class has a share of.
enum class Truth { classes, shares };

template <Truth truth_is>
class CrossEntropy final : public Operation {
  static constexpr bool by_class = truth_is == Truth::classes;

 public:
  explicit CrossEntropy(bool row_weights) : is_weighted_(row_weights) {}

  [[nodiscard]] std::string_view name() const override { return "cross-entropy"; }
  [[nodiscard]] OperationNature nature() const override {
    return {.worked_as = "m − score + log Σ e^(score − m) with the largest score m",
            .takes_scores = true,
            .goes_by_axis = true};
  }
  [[nodiscard]] bool passes_back(std::size_t input) const override {
    return input == 0 || (input == 1 && !by_class);
  }

  [[nodiscard]] std::int64_t choices(const Inputs& inputs, std::size_t input) const override {
    const Shape& scores = inputs.shape(0);
    return by_class && input == 1 ? scores[1 - axis_of_examples(scores)] : 0;
  }

  [[nodiscard]] Shape shape(const Inputs& inputs) const override {
    const Shape& scores = inputs.shape(0);
    const Shape& truth = inputs.shape(1);
    const bool is_table = scores.rank() == 2;
    const int examples = is_table ? axis_of_examples(scores) : 0;
    const bool fits = is_table && (truth == Shape{scores[examples]} || truth == scores);
    if (!fits) {
      throw ShapeError({.what = fmt::format("{}: {} and {} do not fit", name(), inputs.describe(0),
                                            inputs.describe(1)),
                        .expected = is_table
                                        ? fmt::format("[{}], a class number for each example, or "
                                                      "probabilities {}",
                                                      scores[examples], to_string(scores))
                                        : "scores [example × class]",
                        .found = to_string(is_table ? truth : scores)});
    }
    if (by_class) check_whole(inputs, 1, scores[1 - examples], "cross-entropy: a class number");
    check_counted(name(), inputs);
    return {};
  }

  [[nodiscard]] Tensor forward(const Inputs& inputs, const Shape&) const override {
    if (!by_class) {
      const Tensor surprise = sum_rows(by_rows(inputs[1] * -log_softmax(inputs[0])));
      return sum(surprise * normalised_row_weights(inputs));
    }
    return kernels::cross_entropy(by_rows(inputs[0]), inputs[1], shares_of(inputs));
  }

  /// Keeps e^(score − m) of every score.
  [[nodiscard]] Tensor forward_with_aside(const Inputs& inputs, const Shape& shape,
                                          Tensor& aside) const override {
    if (!by_class) return forward(inputs, shape);
    return kernels::cross_entropy(by_rows(inputs[0]), inputs[1], shares_of(inputs), &aside);
  }

  [[nodiscard]] Tensor reverse(const BackwardStep& step, std::size_t input) const override {
    const Tensor& scores = step.inputs[0];
    const Tensor& truth = step.inputs[1];
    const double gradient = step.gradient.number();
    if (by_class) {
      const Tensor powers = step.aside.empty() ? kernels::powers(by_rows(scores)) : step.aside;
      return as_laid_out(
          kernels::cross_entropy_slope(powers, truth, shares_of(step.inputs), gradient),
          scores.shape());
    }
    const Tensor factors =
        beside_examples(gradient * normalised_row_weights(step.inputs), scores.shape());
    if (input == 1) return -log_softmax(scores) * factors;
    const Tensor total = sum(truth, {.axes = {1 - axis_of_examples(scores.shape())}, .keep = true});
    return (softmax(scores) * total - truth) * factors;
  }

  [[nodiscard]] Formula element(const Cells& cells, const Index&) const override {
    const bool by_softmax = is_told_by_softmax(cells);
    std::vector<Formula> terms;
    for (std::int64_t row = 0; row < cells.shape(0)[axis_of_examples(cells.shape(0))]; ++row) {
      const Formula term = by_softmax ? log_of_softmax(cells, row) : surprise_of(cells, row);
      terms.push_back(is_weighted_ ? cells.input(weights_input, {row}) * term : term);
    }
    const Formula mean = Formula::sum(std::move(terms)) / total_weight(cells, is_weighted_);
    return by_softmax ? -mean : mean;
  }

  [[nodiscard]] Formula reverse_element(const Cells& cells, std::size_t input,
                                        const Index& at) const override {
    const int examples = axis_of_examples(cells.shape(0));
    const std::int64_t row = at[examples];
    const Formula share = is_weighted_ ? cells.gradient({}) * cells.input(weights_input, {row}) /
                                             total_weight(cells, is_weighted_)
                                       : cells.gradient({}) / total_weight(cells, is_weighted_);
    if (input == 1) return share * surprise_at(cells.input(0, at), powers_of_row(cells, row));
    const std::optional<Formula> told = cells.softmax(0, 1 - examples, at);
    const Formula probability =
        told ? *told : softmax_of(cells.input(0, at), powers_of_row(cells, row));
    if (by_class) {
      const Formula hit =
          where(cells.input(1, {row}) == Formula(static_cast<double>(at[1 - examples])),
                Formula(1.0), Formula(0.0));
      return share * (probability - hit);
    }
    return share * (Formula::sum(row_of(cells, 1, row)) * probability - cells.input(1, at));
  }

  [[nodiscard]] std::string symbols(const Symbols& symbols) const override {
    if (symbols.are_typed) return loss_call(name(), symbols);
    const std::string& scores = symbols.inputs[0];
    const std::string& truth = symbols.inputs[1];
    const std::string where =
        is_weighted_ ? fmt::format("; weighted by {}", symbols.inputs[weights_input]) : "";
    return by_class ? fmt::format("mean(−log softmax({}) at {}{})", scores, truth, where)
                    : fmt::format("mean(Σ −{} × log softmax({}){})", truth, scores, where);
  }

  [[nodiscard]] std::string reverse_symbols(const Symbols& symbols,
                                            std::size_t input) const override {
    const std::string& scores = symbols.inputs[0];
    const std::string& truth = symbols.inputs[1];
    const std::string share =
        is_weighted_
            ? fmt::format("∂{0} × {1}/sum({1})", symbols.result, symbols.inputs[weights_input])
            : fmt::format("∂{}/{}", symbols.result,
                          symbols.shapes[0][axis_of_examples(symbols.shapes[0])]);
    if (input == 1) return fmt::format("{} × −log softmax({})", share, scores);
    if (by_class) return fmt::format("{} × (softmax({}) − one_hot({}))", share, scores, truth);
    return fmt::format("{} × (softmax({}) × Σ {} − {})", share, scores, truth, truth);
  }

 private:
  /// By how much each row counts; empty where all count alike.
  [[nodiscard]] Tensor shares_of(const Inputs& inputs) const {
    return is_weighted_ ? normalised_row_weights(inputs) : Tensor();
  }

  static Tensor sum_rows(const Tensor& x) { return sum(x, {.axes = {1}}); }

  static std::vector<Formula> row_of(const Cells& cells, std::size_t input, std::int64_t row) {
    std::vector<Formula> numbers;
    const Shape& shape = cells.shape(0);
    for (std::int64_t number = 0; number < shape[1 - axis_of_examples(shape)]; ++number)
      numbers.push_back(cells.input(input, place_of(shape, row, number)));
    return numbers;
  }

  static Powers powers_of_row(const Cells& cells, std::int64_t row) {
    return powers_of(cells, {row}, [&] { return row_of(cells, 0, row); });
  }

  /// Whether the loss is told as −log p by a line p above.
  [[nodiscard]] static bool is_told_by_softmax(const Cells& cells) {
    if (!by_class) return false;
    const Shape& shape = cells.shape(0);
    const int examples = axis_of_examples(shape);
    for (std::int64_t row = 0; row < shape[examples]; ++row) {
      const std::optional<Formula> p = cells.softmax(0, 1 - examples, true_place(cells, row));
      if (!p || !log_tells_all(p->evaluate())) return false;
    }
    return true;
  }

  /// What a row has for its true class, of what `at` gives for a place.
  static Formula of_true_class(const Cells& cells, std::int64_t row,
                               const std::function<Formula(const Index&)>& at) {
    const Shape& shape = cells.shape(0);
    return cells.picked(cells.input(1, {row}), shape[1 - axis_of_examples(shape)],
                        [&](std::int64_t of) { return at(place_of(shape, row, of)); });
  }

  /// Where the number of a row for its true class stands.
  static Index true_place(const Cells& cells, std::int64_t row) {
    return place_of(cells.shape(0), row,
                    static_cast<std::int64_t>(cells.input(1, {row}).evaluate()));
  }

  /// The log of the probability that a row gives to the truth, by a line above.
  [[nodiscard]] static Formula log_of_softmax(const Cells& cells, std::int64_t row) {
    const int classes = 1 - axis_of_examples(cells.shape(0));
    return log(
        of_true_class(cells, row, [&](const Index& at) { return *cells.softmax(0, classes, at); }));
  }

  /// −log of the probability that a row gives to the truth.
  [[nodiscard]] Formula surprise_of(const Cells& cells, std::int64_t row) const {
    const Powers scores = powers_of_row(cells, row);
    if (by_class) {
      return surprise_at(
          of_true_class(cells, row, [&](const Index& at) { return cells.input(0, at); }), scores);
    }
    std::vector<Formula> terms;
    const Shape& shape = cells.shape(0);
    for (std::int64_t number = 0; number < shape[1 - axis_of_examples(shape)]; ++number) {
      const Index at = place_of(shape, row, number);
      terms.push_back(cells.input(1, at) * surprise_at(cells.input(0, at), scores));
    }
    return Formula::sum(std::move(terms));
  }

  bool is_weighted_;
};

}  // namespace lattice
