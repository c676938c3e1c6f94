#include "lattice/worksheet/operations/along_axes.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <bit>

#include "lattice/text/error.hpp"
#include "lattice/worksheet/operations/arithmetic.hpp"
#include "tensor/array_kernels.hpp"
#include "tensor/axes.hpp"
#include "tensor/kernels.hpp"
#include "tensor/normalising_kernels.hpp"
#include "worksheet/operations/naive_log.hpp"
#include "worksheet/operations/shared.hpp"

namespace lattice {
namespace {

using kernels::AxisSet;
using kernels::contains;

/// What operations along axes have in common: which axes they are, and whether these stay.
class AlongAxes : public Operation {
 public:
  [[nodiscard]] OperationNature nature() const override { return {.goes_by_axis = true}; }

  [[nodiscard]] Shape shape(const Inputs& inputs) const override {
    return shape_along(inputs.shape(0), axes_, keep_);
  }

  [[nodiscard]] Passing passing(std::size_t) const override {
    return {.kind = Passing::Kind::shared_out};
  }

  [[nodiscard]] std::string symbols(const Symbols& symbols) const override {
    const std::string& x = symbols.inputs[0];
    const bool are_all = axes_ == (1U << symbols.shapes[0].rank()) - 1;
    const std::string stays = keep_ ? "kept" : "";
    const std::string axes = are_all ? "" : describe_axes(axes_, symbols);
    const std::string how = axes + (axes.empty() || stays.empty() ? "" : ", ") + stays;
    return fmt::format("{}({}{}{})", function_called(name()), x, how.empty() ? "" : "; ", how);
  }

 protected:
  AlongAxes(AxisSet axes, bool keep) : axes_(axes), keep_(keep) {}
  ~AlongAxes() = default;

  [[nodiscard]] AxisSet axes() const { return axes_; }

  /// How many numbers go into one number of the result.
  [[nodiscard]] double count(const Shape& x) const {
    double count = 1.0;
    for (int axis = 0; axis < x.rank(); ++axis) {
      if (contains(axes_, axis)) count *= static_cast<double>(x[axis]);
    }
    return count;
  }

  /// A tensor of the result's shape, with every axis of the input.
  [[nodiscard]] Tensor kept(const Tensor& result, const Shape& x) const {
    return keep_ ? result : result.reshaped(kernels::kept(x, axes_));
  }

  /// The inputs that go into one number of the result.
  [[nodiscard]] std::vector<Formula> gathered(const Cells& cells, const Index& at) const {
    std::vector<Formula> formulas;
    for (const Index& place : places_along(axes_, cells.shape(0), widened(cells.shape(0), at))) {
      formulas.push_back(cells.input(0, place));
    }
    return formulas;
  }

  /// An index of the result as an index of the input, 0 along the axes brought together.
  [[nodiscard]] Index widened(const Shape& x, const Index& at) const {
    if (keep_) return at;
    Index place = Index::zeros(x.rank());
    for (int axis = 0, next = 0; axis < x.rank(); ++axis) {
      if (!contains(axes_, axis)) place[axis] = at[next++];
    }
    return place;
  }

  /// An index of the input as the index of the result that it went into.
  [[nodiscard]] Index narrowed(const Shape& x, const Index& at) const {
    std::vector<std::int64_t> place;
    for (int axis = 0; axis < x.rank(); ++axis) {
      if (!contains(axes_, axis)) {
        place.push_back(at[axis]);
      } else if (keep_) {
        place.push_back(0);
      }
    }
    return Index(place);
  }

 private:
  AxisSet axes_;
  bool keep_;
};

/// Sum and mean: they differ by a divisor.
enum class Total { sum, mean };

template <Total total>
class Totalled final : public AlongAxes {
 public:
  Totalled(AxisSet axes, bool keep) : AlongAxes(axes, keep) {}

  [[nodiscard]] std::string_view name() const override {
    return total == Total::mean ? "mean" : "sum";
  }

  [[nodiscard]] Tensor forward(const Inputs& inputs, const Shape& shape) const override {
    return kernels::sum(inputs[0], axes(), shape, divisor(inputs.shape(0)));
  }

  [[nodiscard]] Tensor reverse(const BackwardStep& step, std::size_t) const override {
    const Shape& shape = step.inputs.shape(0);
    return kernels::broadcast_back(step.gradient, axes(), shape, divisor(shape));
  }

  [[nodiscard]] Formula element(const Cells& cells, const Index& at) const override {
    return divided(Formula::sum(added(cells, at)), cells.shape(0));
  }

  [[nodiscard]] Formula reverse_element(const Cells& cells, std::size_t,
                                        const Index& at) const override {
    return divided(cells.gradient(narrowed(cells.shape(0), at)), cells.shape(0));
  }

  [[nodiscard]] std::string reverse_symbols(const Symbols& symbols, std::size_t) const override {
    const std::string gradient = "∂" + symbols.result;
    if constexpr (total == Total::sum) return gradient + " at every place";
    return fmt::format("{}/{} at every place", gradient, divisor(symbols.shapes[0]));
  }

 private:
  [[nodiscard]] double divisor(const Shape& x) const {
    return total == Total::sum ? 1.0 : count(x);
  }

  /// What is added up: along a row or a column of a matrix, what is stored of it.
  [[nodiscard]] std::vector<Formula> added(const Cells& cells, const Index& at) const {
    const bool is_along_one = axes() == 1 || axes() == 2;
    if (cells.shape(0).rank() != 2 || !is_along_one) return gathered(cells, at);
    const int along = axes() == 1 ? 0 : 1;
    Index place = widened(cells.shape(0), at);
    std::vector<Formula> formulas;
    for (const std::int64_t stored : cells.stored(0, along, place[1 - along])) {
      place[along] = stored;
      formulas.push_back(cells.input(0, place));
    }
    return formulas;
  }

  [[nodiscard]] Formula divided(const Formula& formula, const Shape& x) const {
    if constexpr (total == Total::sum) return formula;
    return formula / divisor(x);
  }
};

class Variance final : public AlongAxes {
 public:
  Variance(AxisSet axes, bool keep) : AlongAxes(axes, keep) {}

  [[nodiscard]] std::string_view name() const override { return "variance"; }

  [[nodiscard]] Tensor forward(const Inputs& inputs, const Shape& shape) const override {
    const Shape& x = inputs.shape(0);
    if (x.rank() > 1 && axes() == (1U << static_cast<unsigned>(x.rank() - 1)) - 1U) {
      const Tensor means = kernels::sum(inputs[0], axes(), shape, count(x));
      return kernels::variance_of_columns(inputs[0], means).reshaped(shape);
    }
    Tensor squares = deviations(inputs[0]);
    kernels::change(squares, [](const auto& deviation) { return deviation * deviation; });
    return kernels::sum(squares, axes(), shape, count(inputs.shape(0)));
  }

  [[nodiscard]] Tensor reverse(const BackwardStep& step, std::size_t) const override {
    const Shape& x = step.inputs.shape(0);
    const double of_all = count(x);
    return kernels::stretch(x, deviations(step.inputs[0]), kept(step.gradient, x),
                            [of_all](const auto& deviation, const auto& gradient) {
                              return 2 * deviation / number_for(deviation, of_all) * gradient;
                            });
  }

  [[nodiscard]] Formula element(const Cells& cells, const Index& at) const override {
    const std::vector<Formula> numbers = gathered(cells, at);
    const Formula centre = mean(cells, at);
    std::vector<Formula> squares;
    squares.reserve(numbers.size());
    for (const Formula& number : numbers)
      squares.push_back(square(number - centre));
    return Formula::sum(std::move(squares)) / count(cells.shape(0));
  }

  [[nodiscard]] Formula reverse_element(const Cells& cells, std::size_t,
                                        const Index& at) const override {
    const Index to = narrowed(cells.shape(0), at);
    const Formula centre = mean(cells, to);
    return 2 * (cells.input(0, at) - centre) / count(cells.shape(0)) * cells.gradient(to);
  }

  [[nodiscard]] std::string reverse_symbols(const Symbols& symbols, std::size_t) const override {
    const std::string& x = symbols.inputs[0];
    return fmt::format("2 × ({} − mean({}))/{} × ∂{}", x, x, count(symbols.shapes[0]),
                       symbols.result);
  }

 private:
  /// The mean of the inputs that go into a number of the result, by the name `m`.
  [[nodiscard]] Formula mean(const Cells& cells, const Index& at) const {
    return cells.in_common(
        0, at, [&] { return Formula::shorthand("m", Formula::mean(gathered(cells, at))); });
  }

  /// How far each number is from the mean it belongs to.
  [[nodiscard]] Tensor deviations(const Tensor& x) const {
    const Tensor means =
        kernels::sum(x, axes(), kernels::kept(x.shape(), axes()), count(x.shape()));
    return kernels::stretch(x.shape(), x, means,
                            [](const auto& number, const auto& mean) { return number - mean; });
  }
};

/// The largest and the smallest: they differ by which way is farther.
template <kernels::End end>
class Outermost final : public AlongAxes {
 public:
  Outermost(AxisSet axes, bool keep) : AlongAxes(axes, keep) {}

  [[nodiscard]] std::string_view name() const override { return is_largest ? "max" : "min"; }

  [[nodiscard]] Tensor forward(const Inputs& inputs, const Shape& shape) const override {
    return kernels::outermost(end, inputs[0], axes(), shape);
  }

  [[nodiscard]] Tensor reverse(const BackwardStep& step, std::size_t) const override {
    return kernels::to_first_outermost(end, step.inputs[0], axes(), step.gradient);
  }

  [[nodiscard]] Formula element(const Cells& cells, const Index& at) const override {
    return is_largest ? Formula::largest(gathered(cells, at))
                      : Formula::smallest(gathered(cells, at));
  }

  [[nodiscard]] Formula reverse_element(const Cells& cells, std::size_t,
                                        const Index& at) const override {
    const Index to = narrowed(cells.shape(0), at);
    const Formula first = cells.in_common(0, to, [&] {
      return Formula::function(is_largest ? "argmax" : "argmin", gathered(cells, to));
    });
    return where(first == Formula(place_among(cells.shape(0), at)), cells.gradient(to),
                 Formula(0.0));
  }

  [[nodiscard]] std::string reverse_symbols(const Symbols& symbols, std::size_t) const override {
    return fmt::format("∂{} where {} is {}, 0 elsewhere", symbols.result, symbols.inputs[0],
                       is_largest ? "largest" : "smallest");
  }

 private:
  /// The place of a number among those that are brought together with it, in the order of
  /// `gathered`.
  [[nodiscard]] double place_among(const Shape& x, const Index& at) const {
    std::int64_t place = 0;
    for (int axis = 0; axis < x.rank(); ++axis) {
      if (contains(axes(), axis)) place = place * x[axis] + at[axis];
    }
    return static_cast<double>(place);
  }

  static constexpr bool is_largest = end == kernels::End::largest;
};

class LogSumExp final : public AlongAxes {
 public:
  LogSumExp(AxisSet axes, bool keep) : AlongAxes(axes, keep) {}

  [[nodiscard]] std::string_view name() const override { return "log-sum-exp"; }

  [[nodiscard]] Tensor forward(const Inputs& inputs, const Shape& shape) const override {
    const kernels::LogTotal total = kernels::log_total(inputs[0], axes(), shape);
    return total.largest + total.logarithm;
  }

  [[nodiscard]] Tensor reverse(const BackwardStep& step, std::size_t) const override {
    const Shape& x = step.inputs.shape(0);
    return kernels::stretch(
        x, kernels::exp_of_difference(step.inputs[0], kept(step.result, x)), kept(step.gradient, x),
        [](const auto& share, const auto& gradient) { return share * gradient; });
  }

  [[nodiscard]] Formula element(const Cells& cells, const Index& at) const override {
    return log_sum_exp_of(powers_of(cells, at, [&] { return gathered(cells, at); }));
  }

  [[nodiscard]] Formula reverse_element(const Cells& cells, std::size_t,
                                        const Index& at) const override {
    const Index to = narrowed(cells.shape(0), at);
    return exp(cells.input(0, at) - cells.result(to)) * cells.gradient(to);
  }

  [[nodiscard]] std::string reverse_symbols(const Symbols& symbols, std::size_t) const override {
    return fmt::format("exp({} − {}) × ∂{}", symbols.inputs[0], symbols.result, symbols.result);
  }
};

/// What operations that work across one axis and keep the shape have in common.
class AcrossAxis : public Operation {
 public:
  [[nodiscard]] OperationNature nature() const override { return {.goes_by_axis = true}; }

  [[nodiscard]] Shape shape(const Inputs& inputs) const override { return inputs.shape(0); }

  [[nodiscard]] Passing passing(std::size_t) const override {
    return {.kind = Passing::Kind::across, .axis = std::countr_zero(axis_)};
  }

  [[nodiscard]] std::string symbols(const Symbols& symbols) const override {
    return fmt::format("{}({}; {})", function_called(name()), symbols.inputs[0],
                       describe_axes(axis(), symbols));
  }

 protected:
  explicit AcrossAxis(AxisSet axis) : axis_(axis) {}
  ~AcrossAxis() = default;

  [[nodiscard]] AxisSet axis() const { return axis_; }

  /// The sum of `make(place)` for each place along the axis.
  template <class Make>
  [[nodiscard]] Formula total(const Cells& cells, const Index& at, Make make) const {
    return cells.in_common(2, first(at), [&] { return Formula::sum(along(cells, at, make)); });
  }

  /// The largest input along the axis, and the sum of their powers.
  [[nodiscard]] Powers powers(const Cells& cells, const Index& at) const {
    return powers_of(cells, first(at), [&] {
      return along(cells, at, [&](const Index& place) { return cells.input(0, place); });
    });
  }

 private:
  template <class Make>
  [[nodiscard]] std::vector<Formula> along(const Cells& cells, const Index& at, Make make) const {
    std::vector<Formula> formulas;
    for (const Index& place : places_along(axis_, cells.shape(0), at))
      formulas.push_back(make(place));
    return formulas;
  }

  /// The first place along the axis.
  [[nodiscard]] Index first(Index at) const {
    for (int axis = 0; axis < at.rank(); ++axis) {
      if (contains(axis_, axis)) at[axis] = 0;
    }
    return at;
  }

  AxisSet axis_;
};

class Softmax final : public AcrossAxis {
 public:
  explicit Softmax(AxisSet axis) : AcrossAxis(axis) {}

  [[nodiscard]] std::string_view name() const override { return "softmax"; }
  [[nodiscard]] OperationNature nature() const override {
    return {.makes_probabilities = true,
            .softmax_along = std::countr_zero(axis()),
            .goes_by_axis = true};
  }

  [[nodiscard]] Tensor forward(const Inputs& inputs, const Shape& shape) const override {
    const Tensor& x = inputs[0];
    const Shape one_each = kernels::kept(shape, axis());
    const Tensor powers = kernels::exp_of_difference(x, kernels::largest(x, axis(), one_each));
    return kernels::stretch(shape, powers, kernels::sum(powers, axis(), one_each),
                            [](const auto& power, const auto& total) { return power / total; });
  }

  [[nodiscard]] Tensor reverse(const BackwardStep& step, std::size_t) const override {
    const Shape& shape = step.result.shape();
    const Tensor weighed = kernels::map(
        step.gradient, [](const auto& gradient, const auto& y) { return gradient * y; },
        step.result);
    const Tensor totals = kernels::sum(weighed, axis(), kernels::kept(shape, axis()));
    const Tensor excess =
        kernels::stretch(shape, step.gradient, totals,
                         [](const auto& gradient, const auto& total) { return gradient - total; });
    return kernels::map(
        excess, [](const auto& more, const auto& y) { return more * y; }, step.result);
  }

  [[nodiscard]] Formula element(const Cells& cells, const Index& at) const override {
    return softmax_of(cells.input(0, at), powers(cells, at));
  }

  [[nodiscard]] Formula reverse_element(const Cells& cells, std::size_t,
                                        const Index& at) const override {
    const Formula taken = total(
        cells, at, [&](const Index& place) { return cells.gradient(place) * cells.result(place); });
    return (cells.gradient(at) - taken) * cells.result(at);
  }

  [[nodiscard]] std::string reverse_symbols(const Symbols& symbols, std::size_t) const override {
    return fmt::format("(∂{0} − Σ({1}) ∂{0} × {0}) × {0}", symbols.result,
                       describe_axes(axis(), symbols.shapes[0]));
  }
};

class LogSoftmax final : public AcrossAxis {
 public:
  explicit LogSoftmax(AxisSet axis) : AcrossAxis(axis) {}

  [[nodiscard]] std::string_view name() const override { return "log-softmax"; }

  [[nodiscard]] Tensor forward(const Inputs& inputs, const Shape& shape) const override {
    const kernels::LogTotal total =
        kernels::log_total(inputs[0], axis(), kernels::kept(shape, axis()));
    const auto less = [](const auto& a, const auto& b) { return a - b; };
    return kernels::stretch(shape, kernels::stretch(shape, inputs[0], total.largest, less),
                            total.logarithm, less);
  }

  [[nodiscard]] Tensor reverse(const BackwardStep& step, std::size_t) const override {
    const Shape& shape = step.result.shape();
    const Tensor shares =
        kernels::map(step.result, [](const auto& y) { return elementwise::exp(y); });
    const Tensor totals = kernels::sum(step.gradient, axis(), kernels::kept(shape, axis()));
    const Tensor taken = kernels::stretch(
        shape, shares, totals, [](const auto& share, const auto& total) { return share * total; });
    return kernels::map(
        step.gradient, [](const auto& gradient, const auto& away) { return gradient - away; },
        taken);
  }

  [[nodiscard]] Formula element(const Cells& cells, const Index& at) const override {
    return -surprise_at(cells.input(0, at), powers(cells, at));
  }

  [[nodiscard]] Formula reverse_element(const Cells& cells, std::size_t,
                                        const Index& at) const override {
    const Formula all = total(cells, at, [&](const Index& place) { return cells.gradient(place); });
    return cells.gradient(at) - exp(cells.result(at)) * all;
  }

  [[nodiscard]] std::string reverse_symbols(const Symbols& symbols, std::size_t) const override {
    return fmt::format("∂{0} − exp({0}) × Σ({1}) ∂{0}", symbols.result,
                       describe_axes(axis(), symbols.shapes[0]));
  }
};

class ArgMax final : public WithoutGradient<AlongAxes> {
 public:
  explicit ArgMax(AxisSet axis) : WithoutGradient(axis, false) {}

  [[nodiscard]] std::string_view name() const override { return "argmax"; }

  [[nodiscard]] Tensor forward(const Inputs& inputs, const Shape& shape) const override {
    return kernels::first_largest(inputs[0], axes(), shape);
  }

  [[nodiscard]] Formula element(const Cells& cells, const Index& at) const override {
    return Formula::function("argmax", gathered(cells, at));
  }
};

/// The set of the one axis that an operation works across.
AxisSet axis_of(std::string_view operation, int axis, const Shape& shape) {
  return 1U << axis_in(operation, axis, shape);
}

/// Along that axis, which is kept.
Along kept_axis(int axis) {
  return {.axes = {axis}, .keep = true};
}

}  // namespace

Line sum(const Line& x, const Along& along) {
  return apply(Totalled<Total::sum>(axes_in("sum", along, x.shape()), along.keep), x);
}

template <Operand X>
X mean(const X& x, const Along& along) {
  return apply(Totalled<Total::mean>(axes_in("mean", along, x.shape()), along.keep), x);
}

template <Operand X>
X variance(const X& x, const Along& along) {
  return apply(Variance(axes_in("variance", along, x.shape()), along.keep), x);
}

template <Operand X>
X max(const X& x, const Along& along) {
  return apply(Outermost<kernels::End::largest>(axes_in("max", along, x.shape()), along.keep), x);
}

template <Operand X>
X min(const X& x, const Along& along) {
  return apply(Outermost<kernels::End::smallest>(axes_in("min", along, x.shape()), along.keep), x);
}

template <Operand X>
X log_sum_exp(const X& x, const Along& along, Form form) {
  const AxisSet axes = axes_in("log_sum_exp", along, x.shape());
  if (form == Form::one_line) return apply(LogSumExp(axes, along.keep), x);
  const auto log_of_total = [&](const X& exponents) {
    const X total = described("total", sum(described("powers", exp(exponents)), along));
    return log(total);
  };
  if (is_naive(form)) return log_of_total(x);
  const X largest = described("largest", max(x, {.axes = along.axes, .keep = true}));
  const X log_total = described("log_total", log_of_total(described("shifted", x - largest)));
  return (along.keep ? largest : described("added_back", max(x, along))) + log_total;
}

/// The axis that is meant where none is told.
int across_of(int axis, const Shape& shape) {
  if (axis != across_classes) return axis;
  const int last = shape.rank() - 1;
  return last > 0 && axis_of_examples(shape) == last ? last - 1 : last_axis;
}

template <Operand X>
X softmax(const X& x, int axis, Form form) {
  const int across = across_of(axis, x.shape());
  const AxisSet axes = axis_of("softmax", across, x.shape());
  if (form == Form::one_line) return apply(Softmax(axes), x);
  const Along along = kept_axis(across);
  const X exponents =
      is_naive(form) ? x : described("shifted", x - described("largest", max(x, along)));
  const X powers = described("powers", exp(exponents));
  return powers / described("total", sum(powers, along));
}

template <Operand X>
X log_softmax(const X& x, int axis, Form form, double epsilon) {
  const int across = across_of(axis, x.shape());
  const AxisSet axes = axis_of("log_softmax", across, x.shape());
  if (form == Form::one_line) return apply(LogSoftmax(axes), x);
  if (is_naive(form)) return naive_log(described("p", softmax(x, across, form)), form, epsilon);
  return x - described("log_sum", log_sum_exp(x, kept_axis(across), form));
}

template <Operand X>
X argmax(const X& x, int axis) {
  return apply(ArgMax(axis_of("argmax", across_of(axis, x.shape()), x.shape())), x);
}

template Line mean(const Line&, const Along&);
template Tensor mean(const Tensor&, const Along&);
template Line variance(const Line&, const Along&);
template Tensor variance(const Tensor&, const Along&);
template Line max(const Line&, const Along&);
template Tensor max(const Tensor&, const Along&);
template Line min(const Line&, const Along&);
template Tensor min(const Tensor&, const Along&);
template Line log_sum_exp(const Line&, const Along&, Form);
template Tensor log_sum_exp(const Tensor&, const Along&, Form);
template Line softmax(const Line&, int, Form);
template Tensor softmax(const Tensor&, int, Form);
template Line log_softmax(const Line&, int, Form, double);
template Tensor log_softmax(const Tensor&, int, Form, double);
template Line argmax(const Line&, int);
template Tensor argmax(const Tensor&, int);

}  // namespace lattice
