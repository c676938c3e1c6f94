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
#include "tensor/kernels.hpp"
#include "worksheet/operations/shared.hpp"

namespace lattice {
namespace {

constexpr std::size_t counted_input = 2;

bool has_counted(std::size_t inputs) {
  return inputs > counted_input;
}

/// Refuses numbers of rows that cannot be: of another shape, below 0, or none above.
void check_counted(std::string_view name, const Inputs& inputs) {
  if (!has_counted(inputs.size())) return;
  const Shape& z = inputs.shape(0);
  const Tensor& counted = inputs[counted_input];
  if (z.rank() == 0 || counted.shape() != Shape{z[0]}) {
    throw ShapeError({.what = fmt::format("{}: {} does not say how much each row of {} counts",
                                          name, inputs.describe(counted_input), inputs.describe(0)),
                      .expected = z.rank() == 0 ? "a tensor with rows"
                                                : fmt::format("[{}], one number a row", z[0]),
                      .found = to_string(counted.shape())});
  }
  double total = 0.0;
  for (std::int64_t row = 0; row < z[0]; ++row) {
    const double number = counted.at_offset(row);
    if (!(number >= 0.0) || std::isinf(number)) {
      throw NumberError({.what = fmt::format("{}: a row cannot count so much", name),
                         .where = inputs.place(counted_input, {row}),
                         .expected = "a number of 0 or more",
                         .found = format_number(number)});
    }
    total += number;
  }
  if (total == 0.0) {
    throw NumberError({.what = fmt::format("{}: no row counts", name),
                       .where = inputs.name(counted_input),
                       .expected = "a number above 0 for at least one row",
                       .found = fmt::format("{} zeros", z[0]),
                       .remedy = "a mean over nothing is no number; leave the minibatch out"});
  }
}

/// How much each row weighs in the mean: its share of what counts, [n].
Tensor shares_of_rows(const Inputs& inputs) {
  if (!has_counted(inputs.size())) {
    const std::int64_t rows = inputs.shape(0).rank() == 0 ? 1 : inputs.shape(0)[0];
    return kernels::filled(Shape{rows}, inputs[0].precision(), 1.0 / static_cast<double>(rows));
  }
  const Tensor& counted = inputs[counted_input];
  return counted / sum(counted);
}

Tensor as_column(const Tensor& x) {
  return x.reshaped({x.count(), 1});
}

/// What the sum over all rows is divided by: their number, or the sum of what counts.
Formula total_counted(const Cells& cells, bool counted) {
  const std::int64_t rows = cells.shape(0).rank() == 0 ? 1 : cells.shape(0)[0];
  if (!counted) return static_cast<double>(rows);
  std::vector<Formula> numbers;
  for (std::int64_t row = 0; row < rows; ++row)
    numbers.push_back(cells.input(counted_input, {row}));
  return Formula::sum(std::move(numbers));
}

struct Squared {
  static constexpr std::string_view name = "mean squared";
  static constexpr bool takes_scores = false;
  static constexpr std::string_view symbols = "mean(({0} − {1})²{2})";
  static constexpr double scale = 1.0;
  static auto value(const auto& z, const auto& y) { return square(z - y); }
  static auto slope_first(const auto& z, const auto& y) { return 2 * (z - y); }
  static auto slope_second(const auto& z, const auto& y) { return 2 * (y - z); }
  static constexpr std::string_view slope_symbols_first = "2 × ({0} − {1})";
  static constexpr std::string_view slope_symbols_second = "2 × ({1} − {0})";
  static void check(const Inputs&) {}
};

struct HalfSquared {
  static constexpr std::string_view name = "half mean squared";
  static constexpr bool takes_scores = false;
  static constexpr std::string_view symbols = "0.5 × mean(({0} − {1})²{2})";
  static constexpr double scale = 0.5;
  static auto value(const auto& z, const auto& y) { return square(z - y); }
  static auto slope_first(const auto& z, const auto& y) { return z - y; }
  static auto slope_second(const auto& z, const auto& y) { return y - z; }
  static constexpr std::string_view slope_symbols_first = "({0} − {1})";
  static constexpr std::string_view slope_symbols_second = "({1} − {0})";
  static void check(const Inputs&) {}
};

struct BinaryCrossEntropy {
  static constexpr std::string_view name = "binary cross-entropy";
  static constexpr bool takes_scores = true;
  static constexpr std::string_view symbols = "mean(softplus({0}) − {0} × {1}{2})";
  static constexpr double scale = 1.0;
  // softplus(s) − s·y, summed so that nothing is lost where the two are large and nearly the same.
  static auto value(const auto& s, const auto& y) {
    return larger(s, number_for(s, 0.0)) - s * y + log1p(exp(-abs(s)));
  }
  static auto slope_first(const auto& s, const auto& y) { return Sigmoid::value(s) - y; }
  static auto slope_second(const auto& s, const auto&) { return -s; }
  static constexpr std::string_view slope_symbols_first = "(sigmoid({0}) − {1})";
  static constexpr std::string_view slope_symbols_second = "(−{0})";
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
/// - how it and its slopes are written, and a check of the truth.
template <class Rule>
class MeanLoss final : public Operation {
 public:
  explicit MeanLoss(bool counted) : counted_(counted) {}

  /// The function of every pair of numbers.
  [[nodiscard]] static Tensor values(const Tensor& guesses, const Tensor& truth) {
    return kernels::map(
        guesses, [](const auto& z, const auto& y) { return Rule::value(z, y); }, truth);
  }

  [[nodiscard]] std::string_view name() const override { return Rule::name; }
  [[nodiscard]] OperationNature nature() const override {
    return {.takes_scores = Rule::takes_scores};
  }
  [[nodiscard]] bool passes_back(std::size_t input) const override {
    return input != counted_input;
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
    if (!counted_) {
      return kernels::mean_of(inputs[0], inputs[1], Rule::scale,
                              [](const auto& z, const auto& y) { return Rule::value(z, y); });
    }
    const Tensor losses = values(inputs[0], inputs[1]);
    return Rule::scale * sum(by_row(losses) * as_column(shares_of_rows(inputs))) /
           width(inputs.shape(0));
  }

  [[nodiscard]] Tensor reverse(const Arrival& step, std::size_t input) const override {
    const double arrived = step.arrived.number();
    const Shape& shape = step.inputs.shape(0);
    const double factor = arrived / (counted_ ? 1.0 : static_cast<double>(shape.count()));
    const auto times = [&](auto slope) {
      return kernels::map(
          step.inputs[0],
          [&](const auto& z, const auto& y) { return number_for(z, factor) * slope(z, y); },
          step.inputs[1]);
    };
    Tensor slopes =
        input == 0 ? times([](const auto& z, const auto& y) { return Rule::slope_first(z, y); })
                   : times([](const auto& z, const auto& y) { return Rule::slope_second(z, y); });
    if (!counted_) return slopes;
    return (by_row(slopes) * as_column(shares_of_rows(step.inputs)) / width(shape)).reshaped(shape);
  }

  [[nodiscard]] Formula element(const Cells& cells, const Index&) const override {
    const Shape& shape = cells.shape(0);
    std::vector<Formula> values;
    for (std::int64_t offset = 0; offset < shape.count(); ++offset) {
      const Index at = shape.index(offset);
      const Formula value = Rule::value(cells.input(0, at), cells.input(1, at));
      values.push_back(counted_ ? cells.input(counted_input, {at[0]}) * value : value);
    }
    const Formula mean = Formula::sum(std::move(values)) / count(cells);
    return Rule::scale == 1.0 ? mean : Rule::scale * mean;
  }

  [[nodiscard]] Formula reverse_element(const Cells& cells, std::size_t input,
                                        const Index& at) const override {
    const Formula share =
        counted_ ? cells.arrived({}) * cells.input(counted_input, {at[0]}) / count(cells)
                 : cells.arrived({}) / count(cells);
    const Formula z = cells.input(0, at);
    const Formula y = cells.input(1, at);
    return share * (input == 0 ? Formula(Rule::slope_first(z, y)) : Rule::slope_second(z, y));
  }

  [[nodiscard]] std::string symbols(const Symbols& symbols) const override {
    const std::string where =
        counted_ ? fmt::format("; counted by {}", symbols.inputs[counted_input]) : "";
    return fmt::format(fmt::runtime(Rule::symbols), symbols.inputs[0], symbols.inputs[1], where);
  }

  [[nodiscard]] std::string reverse_symbols(const Symbols& symbols,
                                            std::size_t input) const override {
    const auto slope = input == 0 ? Rule::slope_symbols_first : Rule::slope_symbols_second;
    const double numbers = width(symbols.shapes[0]);
    const std::string share =
        !counted_ ? ""
        : numbers == 1.0
            ? fmt::format("{0}/sum({0})", symbols.inputs[counted_input])
            : fmt::format("{0}/(sum({0}) × {1})", symbols.inputs[counted_input], numbers);
    return fmt::format("∂{}{} × {}", symbols.result,
                       counted_ ? " × " + share : fmt::format("/{}", symbols.shapes[0].count()),
                       fmt::format(fmt::runtime(slope), symbols.inputs[0], symbols.inputs[1]));
  }

 private:
  /// How many numbers a row has.
  static double width(const Shape& shape) {
    const std::int64_t numbers = shape.count() / (shape.rank() == 0 ? 1 : shape[0]);
    return static_cast<double>(numbers);
  }

  static Tensor by_row(const Tensor& x) {
    return x.reshaped({x.shape()[0], x.count() / x.shape()[0]});
  }

  /// What the sum of all values is divided by.
  [[nodiscard]] Formula count(const Cells& cells) const {
    const Shape& shape = cells.shape(0);
    if (!counted_) return static_cast<double>(shape.count());
    const Formula total = total_counted(cells, counted_);
    return width(shape) == 1.0 ? total : total * width(shape);
  }

  bool counted_;
};

/// What cross-entropy is told of the truth: a class a row, or what each class has a share of.
enum class Truth { classes, shares };

template <Truth truth_is>
class CrossEntropy final : public Operation {
  static constexpr bool by_class = truth_is == Truth::classes;

 public:
  explicit CrossEntropy(bool counted) : counted_(counted) {}

  [[nodiscard]] std::string_view name() const override { return "cross-entropy"; }
  [[nodiscard]] OperationNature nature() const override { return {.takes_scores = true}; }
  [[nodiscard]] bool passes_back(std::size_t input) const override {
    return input == 0 || (input == 1 && !by_class);
  }

  [[nodiscard]] Shape shape(const Inputs& inputs) const override {
    const Shape& scores = inputs.shape(0);
    const Shape& truth = inputs.shape(1);
    const bool fits = scores.rank() == 2 && (truth == Shape{scores[0]} || truth == scores);
    if (!fits) {
      throw ShapeError(
          {.what = fmt::format("{}: {} and {} do not fit", name(), inputs.describe(0),
                               inputs.describe(1)),
           .expected = scores.rank() == 2
                           ? fmt::format("[{}], a class number a row, or [{} × {}], a row of "
                                         "probabilities",
                                         scores[0], scores[0], scores[1])
                           : "scores [example × class]",
           .found = to_string(scores.rank() == 2 ? truth : scores)});
    }
    if (by_class) check_whole(inputs, 1, scores[1], "cross-entropy: a class number");
    check_counted(name(), inputs);
    return {};
  }

  [[nodiscard]] Tensor forward(const Inputs& inputs, const Shape&) const override {
    if (!by_class) {
      const Tensor surprise = sum_rows(inputs[1] * -log_softmax(inputs[0]));
      return sum(surprise * shares_of_rows(inputs));
    }
    return kernels::cross_entropy(inputs[0], inputs[1],
                                  counted_ ? shares_of_rows(inputs) : Tensor());
  }

  [[nodiscard]] Tensor reverse(const Arrival& step, std::size_t input) const override {
    const Tensor& scores = step.inputs[0];
    const Tensor& truth = step.inputs[1];
    const double arrived = step.arrived.number();
    if (by_class) {
      return kernels::cross_entropy_slope(
          scores, truth, counted_ ? shares_of_rows(step.inputs) : Tensor(), arrived);
    }
    const Tensor factors = as_column(arrived * shares_of_rows(step.inputs));
    if (input == 1) return -log_softmax(scores) * factors;
    return (softmax(scores) * as_column(sum_rows(truth)) - truth) * factors;
  }

  [[nodiscard]] Formula element(const Cells& cells, const Index&) const override {
    std::vector<Formula> terms;
    for (std::int64_t row = 0; row < cells.shape(0)[0]; ++row) {
      const Formula surprise = surprise_of(cells, row);
      terms.push_back(counted_ ? cells.input(counted_input, {row}) * surprise : surprise);
    }
    return Formula::sum(std::move(terms)) / total_counted(cells, counted_);
  }

  [[nodiscard]] Formula reverse_element(const Cells& cells, std::size_t input,
                                        const Index& at) const override {
    const Formula share = counted_ ? cells.arrived({}) * cells.input(counted_input, {at[0]}) /
                                         total_counted(cells, counted_)
                                   : cells.arrived({}) / total_counted(cells, counted_);
    const Powers scores = powers_of_row(cells, at[0]);
    if (input == 1) return share * surprise_at(cells.input(0, at), scores);
    const Formula probability = softmax_of(cells.input(0, at), scores);
    if (by_class) {
      const Formula hit = where(cells.input(1, {at[0]}) == Formula(static_cast<double>(at[1])),
                                Formula(1.0), Formula(0.0));
      return share * (probability - hit);
    }
    return share * (Formula::sum(row_of(cells, 1, at[0])) * probability - cells.input(1, at));
  }

  [[nodiscard]] std::string symbols(const Symbols& symbols) const override {
    const std::string& scores = symbols.inputs[0];
    const std::string& truth = symbols.inputs[1];
    const std::string where =
        counted_ ? fmt::format("; counted by {}", symbols.inputs[counted_input]) : "";
    return by_class ? fmt::format("mean(−log softmax({}) at {}{})", scores, truth, where)
                    : fmt::format("mean(Σ −{} × log softmax({}){})", truth, scores, where);
  }

  [[nodiscard]] std::string reverse_symbols(const Symbols& symbols,
                                            std::size_t input) const override {
    const std::string& scores = symbols.inputs[0];
    const std::string& truth = symbols.inputs[1];
    const std::string share =
        counted_ ? fmt::format("∂{0} × {1}/sum({1})", symbols.result, symbols.inputs[counted_input])
                 : fmt::format("∂{}/{}", symbols.result, symbols.shapes[0][0]);
    if (input == 1) return fmt::format("{} × −log softmax({})", share, scores);
    if (by_class) return fmt::format("{} × (softmax({}) − one_hot({}))", share, scores, truth);
    return fmt::format("{} × (softmax({}) × Σ {} − {})", share, scores, truth, truth);
  }

 private:
  static Tensor sum_rows(const Tensor& x) { return sum(x, {.axes = {1}}); }

  static std::vector<Formula> row_of(const Cells& cells, std::size_t input, std::int64_t row) {
    std::vector<Formula> numbers;
    for (std::int64_t column = 0; column < cells.shape(input)[1]; ++column)
      numbers.push_back(cells.input(input, {row, column}));
    return numbers;
  }

  static Powers powers_of_row(const Cells& cells, std::int64_t row) {
    return powers_of(cells, {row}, [&] { return row_of(cells, 0, row); });
  }

  /// −log of the probability that a row gives to the truth.
  [[nodiscard]] Formula surprise_of(const Cells& cells, std::int64_t row) const {
    const Powers scores = powers_of_row(cells, row);
    if (by_class) {
      const auto number = static_cast<std::int64_t>(cells.input(1, {row}).evaluate());
      return surprise_at(cells.input(0, {row, number}), scores);
    }
    std::vector<Formula> terms;
    for (std::int64_t column = 0; column < cells.shape(0)[1]; ++column) {
      const Formula probability = cells.input(1, {row, column});
      terms.push_back(probability * surprise_at(cells.input(0, {row, column}), scores));
    }
    return Formula::sum(std::move(terms));
  }

  bool counted_;
};

class L2Term final : public Operation {
 public:
  explicit L2Term(double strength) : strength_(strength) {}

  [[nodiscard]] std::string_view name() const override { return "L2 term"; }
  [[nodiscard]] Shape shape(const Inputs&) const override { return {}; }

  [[nodiscard]] Tensor forward(const Inputs& inputs, const Shape&) const override {
    return strength_ / 2.0 * sum(square(inputs[0]));
  }

  [[nodiscard]] Tensor reverse(const Arrival& step, std::size_t) const override {
    return strength_ * step.arrived.number() * step.inputs[0];
  }

  [[nodiscard]] Formula element(const Cells& cells, const Index&) const override {
    std::vector<Formula> squares;
    for (std::int64_t offset = 0; offset < cells.shape(0).count(); ++offset)
      squares.push_back(square(cells.input(0, cells.shape(0).index(offset))));
    return strength_ / 2.0 * Formula::sum(std::move(squares));
  }

  [[nodiscard]] Formula reverse_element(const Cells& cells, std::size_t,
                                        const Index& at) const override {
    return cells.arrived({}) * strength_ * cells.input(0, at);
  }

  [[nodiscard]] std::string symbols(const Symbols& symbols) const override {
    return fmt::format("{} × sum({}²)", format_number(strength_ / 2.0), symbols.inputs[0]);
  }

  [[nodiscard]] std::string reverse_symbols(const Symbols& symbols, std::size_t) const override {
    return fmt::format("∂{} × {} × {}", symbols.result, format_number(strength_),
                       symbols.inputs[0]);
  }

 private:
  double strength_;
};

/// How much each row counts, as a column beside the rows of `x` with all other axes.
template <class X>
X beside_rows(const X& counted, const Shape& x) {
  Shape shape = x;
  for (int axis = 1; axis < x.rank(); ++axis)
    shape = shape.with_extent(axis, 1);
  return reshape(counted, shape);
}

/// The mean of a function of every number, in primitive lines; by rows that count, if any.
template <class X>
X mean_counted(const X& values, const std::optional<X>& counted) {
  if (!counted) return mean(values);
  const Shape& shape = values.shape();
  const X total = sum(values * beside_rows(*counted, shape)) / sum(*counted);
  const std::int64_t width = shape.count() / shape[0];
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
X in_one_line(const X& z, const X& y, const std::optional<X>& counted) {
  return counted ? apply(Loss(true), z, y, *counted) : apply(Loss(false), z, y);
}

/// A loss in one line, or the mean of what `write_out` gives.
template <class Loss, class X, class WriteOut>
X loss(const X& z, const X& y, const LossSettings<X>& settings, WriteOut write_out) {
  if (settings.form == Form::one_line) return in_one_line<Loss>(z, y, settings.counted);
  const std::optional<Tensor> counted =
      settings.counted ? std::optional(value_of(*settings.counted)) : std::nullopt;
  static_cast<void>(in_one_line<Loss>(value_of(z), value_of(y), counted));
  return mean_counted(write_out(), settings.counted);
}

template <class X>
X write_cross_entropy(const X& scores, const X& truth, const LossSettings<X>& settings) {
  const auto logs = [&] { return log_softmax(scores, 1, settings.form); };
  if (truth.shape().rank() == 1) {
    return loss<CrossEntropy<Truth::classes>>(scores, truth, settings,
                                              [&] { return -at_class(logs(), truth); });
  }
  return loss<CrossEntropy<Truth::shares>>(scores, truth, settings,
                                           [&] { return -sum(truth * logs(), {.axes = {1}}); });
}

/// Refuses what a loss cannot work with.
template <class Loss>
void check_fit(const Tensor& guesses, const Tensor& truth) {
  const std::array<const Tensor*, 2> inputs = {&guesses, &truth};
  static_cast<void>(Loss(false).shape(Inputs(inputs)));
}

/// The mean of the numbers of each row.
Tensor mean_of_rows(const Tensor& values) {
  const std::int64_t rows = values.shape().rank() == 0 ? 1 : values.shape()[0];
  return mean(values.reshaped({rows, values.count() / rows}), {.axes = {1}});
}

}  // namespace

template <Operand X>
X mean_squared(const X& z, const X& y, const LossSettingsFor<X>& settings) {
  return loss<MeanLoss<Squared>>(z, y, settings, [&] { return square(z - y); });
}

template <Operand X>
X half_mean_squared(const X& z, const X& y, const LossSettingsFor<X>& settings) {
  if (settings.form != Form::one_line) return 0.5 * mean_squared(z, y, settings);
  return in_one_line<MeanLoss<HalfSquared>>(z, y, settings.counted);
}

template <Operand X>
X binary_cross_entropy(const X& scores, const X& labels, const LossSettingsFor<X>& settings) {
  return loss<MeanLoss<BinaryCrossEntropy>>(scores, labels, settings, [&] {
    if (settings.form == Form::written_out) return softplus(scores) - scores * labels;
    const X p = sigmoid(scores, Form::careless);
    return -(labels * log(p) + (1 - labels) * log(1 - p));
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
    return kernels::surprises(scores, truth);
  }
  check_fit<CrossEntropy<Truth::shares>>(scores, truth);
  return sum(truth * -log_softmax(scores), {.axes = {1}});
}

template <Operand X>
X l2_term(const X& W, double strength, Form form) {
  if (!(strength >= 0.0) || std::isinf(strength)) {
    throw SettingError({.what = "L2 term: this strength cannot be used",
                        .expected = "a number of 0 or more, such as 0.001",
                        .found = format_number(strength)});
  }
  if (form == Form::one_line) return apply(L2Term(strength), W);
  return strength / 2.0 * sum(square(W));
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
