#include "lattice/worksheet/operations/losses.hpp"

#include <fmt/format.h>

#include <cmath>

#include "lattice/text/error.hpp"
#include "lattice/worksheet/detail/scalar.hpp"
#include "lattice/worksheet/operations/activations.hpp"
#include "lattice/worksheet/operations/along_axes.hpp"
#include "lattice/worksheet/operations/arithmetic.hpp"
#include "lattice/worksheet/operations/choosing.hpp"
#include "lattice/worksheet/operations/rearranging.hpp"
#include "tensor/array_kernels.hpp"
#include "tensor/cross_entropy_kernels.hpp"
#include "worksheet/operations/cross_entropy.hpp"
#include "worksheet/operations/mean_losses.hpp"
#include "worksheet/operations/naive_log.hpp"
#include "worksheet/operations/shared.hpp"

namespace lattice {
namespace {

class L2Term final : public Operation {
 public:
  explicit L2Term(double strength) : strength_(strength) {}

  [[nodiscard]] std::string_view name() const override { return "L2 term"; }
  [[nodiscard]] OperationNature nature() const override { return {.goes_by_axis = true}; }
  [[nodiscard]] Shape shape(const Inputs&) const override { return {}; }

  [[nodiscard]] Tensor forward(const Inputs& inputs, const Shape&) const override {
    return strength_ / 2.0 * sum(square(inputs[0]));
  }

  [[nodiscard]] Tensor reverse(const BackwardStep& step, std::size_t) const override {
    return strength_ * step.gradient.number() * step.inputs[0];
  }

  [[nodiscard]] Formula element(const Cells& cells, const Index&) const override {
    std::vector<Formula> squares;
    for (std::int64_t offset = 0; offset < cells.shape(0).count(); ++offset)
      squares.push_back(square(cells.input(0, cells.shape(0).index(offset))));
    return strength_ / 2.0 * Formula::sum(std::move(squares));
  }

  [[nodiscard]] Formula reverse_element(const Cells& cells, std::size_t,
                                        const Index& at) const override {
    return cells.gradient({}) * strength_ * cells.input(0, at);
  }

  [[nodiscard]] std::string symbols(const Symbols& symbols) const override {
    if (symbols.are_typed)
      return fmt::format("l2_term({}; {})", symbols.inputs[0], symbols.number(strength_));
    return fmt::format("{} × sum({}²)", format_number(strength_ / 2.0), symbols.inputs[0]);
  }

  [[nodiscard]] std::string reverse_symbols(const Symbols& symbols, std::size_t) const override {
    return fmt::format("∂{} × {} × {}", symbols.result, format_number(strength_),
                       symbols.inputs[0]);
  }

 private:
  double strength_;
};

/// The mean of a function of every number, in primitive lines; by rows that count, if any.
template <class X>
X weighted_mean(const X& values, const std::optional<X>& row_weights) {
  described("by_row", values);
  if (!row_weights) return mean(values);
  const Shape& shape = values.shape();
  const X weighed = described("weighed", values * beside_examples(*row_weights, shape));
  const X total =
      described("weighed_total", sum(weighed)) / described("weights_total", sum(*row_weights));
  const std::int64_t width = shape.count() / shape[axis_of_examples(shape)];
  return width == 1 ? total : total / static_cast<double>(width);
}

/// The fused line refuses what it cannot work with; its written-out forms refuse the same.
template <class X>
const Tensor& value_of(const X& x) {
  if constexpr (std::same_as<X, Tensor>) {
    return x;
  } else {
    return x.value();
  }
}

/// A loss as one operation of two inputs, or of three where rows count.
template <class Loss, class X>
X in_one_line(const X& z, const X& y, const std::optional<X>& row_weights) {
  return row_weights ? apply(Loss(true), z, y, *row_weights) : apply(Loss(false), z, y);
}

/// A loss in one line, or the mean of what `write_out` gives.
template <class Loss, class X, class WriteOut>
X loss(const X& z, const X& y, const LossSettings<X>& settings, WriteOut write_out) {
  if (settings.form == Form::one_line) return in_one_line<Loss>(z, y, settings.row_weights);
  const std::optional<Tensor> row_weights =
      settings.row_weights ? std::optional(value_of(*settings.row_weights)) : std::nullopt;
  static_cast<void>(in_one_line<Loss>(value_of(z), value_of(y), row_weights));
  return weighted_mean(write_out(), settings.row_weights);
}

template <class X>
X write_cross_entropy(const X& scores, const X& truth, const LossSettings<X>& settings) {
  const auto logs = [&] {
    return log_softmax(scores, across_classes, settings.form, settings.epsilon);
  };
  if (truth.shape().rank() == 1) {
    return loss<CrossEntropy<Truth::classes>>(scores, truth, settings, [&] {
      return -described("log_p_true", at_class(described("log_p", logs()), truth));
    });
  }
  return loss<CrossEntropy<Truth::shares>>(scores, truth, settings, [&] {
    const int classes = 1 - axis_of_examples(scores.shape());
    const X weighed = described("weighed", truth * described("log_p", logs()));
    return -described("expected_log_p", sum(weighed, {.axes = {classes}}));
  });
}

/// Refuses what a loss cannot work with.
template <class Loss>
void check_fit(const Tensor& guesses, const Tensor& truth) {
  const std::array<const Tensor*, 2> inputs = {&guesses, &truth};
  static_cast<void>(Loss(false).shape(Inputs(inputs)));
}

/// The mean of the numbers of each row.
Tensor mean_of_rows(const Tensor& values) {
  if (values.shape().rank() == 0) return values.reshaped({1});
  const Tensor by_example = values.shape().rank() == 2 ? by_rows(values) : values;
  const std::int64_t rows = by_example.shape()[0];
  return mean(by_example.reshaped({rows, values.count() / rows}), {.axes = {1}});
}

}  // namespace

template <Operand X>
X mean_squared(const X& z, const X& y, const LossSettingsFor<X>& settings) {
  return loss<MeanLoss<Squared>>(
      z, y, settings, [&] { return described("squared", square(described("error", z - y))); });
}

template <Operand X>
X half_mean_squared(const X& z, const X& y, const LossSettingsFor<X>& settings) {
  if (settings.form != Form::one_line) return 0.5 * mean_squared(z, y, settings);
  return in_one_line<MeanLoss<HalfSquared>>(z, y, settings.row_weights);
}

template <Operand X>
X binary_cross_entropy(const X& scores, const X& labels, const LossSettingsFor<X>& settings) {
  return loss<MeanLoss<BinaryCrossEntropy>>(scores, labels, settings, [&] {
    if (settings.form == Form::written_out) {
      const X at_label = described("score_at_label", scores * labels);
      return described("softplus", softplus(scores)) - at_label;
    }
    const X p = described("p", sigmoid(scores, Form::naive));
    const auto log_of = [&](std::string_view words, const X& share) {
      return described(words, naive_log(share, settings.form, settings.epsilon));
    };
    const X if_one = described("if_one", labels * log_of("log_p", p));
    const X other = described("other", 1 - p);
    const X not_labels = described("other_labels", 1 - labels);
    const X if_other = described("if_other", not_labels * log_of("log_other", other));
    return -described("log_likelihood", if_one + if_other);
  });
}

template <Operand X>
X cross_entropy(const X& scores, const X& truth, const LossSettingsFor<X>& settings) {
  return write_cross_entropy(scores, truth, settings);
}

Tensor squared_of_rows(const Tensor& z, const Tensor& y) {
  check_fit<MeanLoss<Squared>>(z, y);
  return mean_of_rows(MeanLoss<Squared>::values(z, y));
}

Tensor binary_cross_entropy_of_rows(const Tensor& scores, const Tensor& labels) {
  check_fit<MeanLoss<BinaryCrossEntropy>>(scores, labels);
  return mean_of_rows(MeanLoss<BinaryCrossEntropy>::values(scores, labels));
}

Tensor cross_entropy_of_rows(const Tensor& scores, const Tensor& truth) {
  if (truth.shape().rank() == 1) {
    check_fit<CrossEntropy<Truth::classes>>(scores, truth);
    return kernels::surprises(by_rows(scores), truth);
  }
  check_fit<CrossEntropy<Truth::shares>>(scores, truth);
  return sum(by_rows(truth * -log_softmax(scores)), {.axes = {1}});
}

template <Operand X>
X l2_term(const X& W, double strength, Form form) {
  if (!(strength >= 0.0) || std::isinf(strength)) {
    throw SettingError({.what = "L2 term: this strength cannot be used",
                        .expected = "a number of 0 or more, such as 0.001",
                        .found = format_number(strength)});
  }
  if (form == Form::one_line) return apply(L2Term(strength), W);
  return strength / 2.0 * described("squares_total", sum(described("squares", square(W))));
}

template Line mean_squared(const Line&, const Line&, const LossSettings<Line>&);
template Tensor mean_squared(const Tensor&, const Tensor&, const LossSettings<Tensor>&);
template Line half_mean_squared(const Line&, const Line&, const LossSettings<Line>&);
template Tensor half_mean_squared(const Tensor&, const Tensor&, const LossSettings<Tensor>&);
template Line binary_cross_entropy(const Line&, const Line&, const LossSettings<Line>&);
template Tensor binary_cross_entropy(const Tensor&, const Tensor&, const LossSettings<Tensor>&);
template Line cross_entropy(const Line&, const Line&, const LossSettings<Line>&);
template Tensor cross_entropy(const Tensor&, const Tensor&, const LossSettings<Tensor>&);
template Line l2_term(const Line&, double, Form);
template Tensor l2_term(const Tensor&, double, Form);

}  // namespace lattice
