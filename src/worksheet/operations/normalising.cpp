#include "lattice/worksheet/operations/normalising.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <array>
#include <cmath>
#include <span>
#include <string>
#include <vector>

#include "lattice/text/error.hpp"
#include "lattice/worksheet/operations/along_axes.hpp"
#include "lattice/worksheet/operations/arithmetic.hpp"
#include "tensor/array_kernels.hpp"
#include "tensor/axes.hpp"
#include "tensor/kernels.hpp"
#include "tensor/normalising_kernels.hpp"
#include "worksheet/operations/of_itself.hpp"
#include "worksheet/operations/shared.hpp"

namespace lattice {
namespace {

using kernels::AxisSet;

class Normalising final : public Operation {
 public:
  /// @param own the axes along which mean and variance are those of x itself; none where they are
  ///        given
  Normalising(double epsilon, AxisSet own) : epsilon_(epsilon), own_(own) {}

  [[nodiscard]] std::string_view name() const override { return "normalised"; }
  [[nodiscard]] OperationNature nature() const override { return {.goes_by_axis = true}; }

  [[nodiscard]] Shape shape(const Inputs& inputs) const override {
    const Shape& x = inputs.shape(from);
    for (std::size_t input = centre; input <= shift; ++input) {
      if (stretches(inputs.shape(input), x)) continue;
      throw ShapeError({.what = fmt::format("{}: {} does not fit {}", name(),
                                            inputs.describe(input), inputs.describe(from)),
                        .expected = "the same shape, or one that can be broadcast to it",
                        .found = to_string(inputs.shape(input))});
    }
    return x;
  }

  [[nodiscard]] bool passes_back(std::size_t input) const override {
    return own_ == 0 || (input != centre && input != variance_of);
  }

  [[nodiscard]] Tensor forward(const Inputs& inputs, const Shape& shape) const override {
    if (is_by_column(inputs)) {
      return kernels::normalised_columns(inputs[from], inputs[centre], factor(inputs),
                                         inputs[shift]);
    }
    return kernels::stretch(shape, scaled(inputs, brought_to_one(inputs)), inputs[shift],
                            [](const auto& number, const auto& moved) { return number + moved; });
  }

  [[nodiscard]] Tensor reverse(const BackwardStep& step, std::size_t input) const override {
    std::array<Tensor, shift + 1> passed_on;
    reverse_to_all(step, InputSet().set(input), passed_on);
    return passed_on.at(input);
  }

  void reverse_to_all(const BackwardStep& step, const InputSet& wanted,
                      std::span<Tensor> passed_on) const override {
    if (is_by_column(step.inputs)) {
      by_column(step, wanted, passed_on);
    } else {
      by_stretching(step, wanted, passed_on);
    }
  }

  [[nodiscard]] Formula element(const Cells& cells, const Index& at) const override {
    return normal(cells, at) * cell(cells, scale, at) + cell(cells, shift, at);
  }

  [[nodiscard]] Formula reverse_element(const Cells& cells, std::size_t input,
                                        const Index& at) const override {
    if (input == from) {
      if (own_ == 0) return came(cells, at) / root(cells, at);
      const Formula mean_came =
          mean_along(cells, at, 0, "came", [&](const Index& place) { return came(cells, place); });
      const Formula mean_along_x = mean_along(cells, at, 1, "with", [&](const Index& place) {
        return came(cells, place) * normal(cells, place);
      });
      return (came(cells, at) - mean_came - normal(cells, at) * mean_along_x) / root(cells, at);
    }
    std::vector<Formula> uses;
    for (const Index& place : places_of_use(cells.shape(input), cells.result_shape(), at)) {
      if (input == shift) uses.push_back(cells.gradient(place));
      if (input == scale) uses.push_back(cells.gradient(place) * normal(cells, place));
      if (input == centre) uses.push_back(-(came(cells, place) / root(cells, place)));
      if (input == variance_of) {
        uses.push_back(-0.5 * came(cells, place) * normal(cells, place) /
                       (cell(cells, variance_of, place) + epsilon_));
      }
    }
    return Formula::sum(std::move(uses));
  }

  [[nodiscard]] std::string symbols(const Symbols& symbols) const override {
    if (symbols.are_typed) {
      const std::string along =
          own_ == 0 ? "" : fmt::format(", of itself along {}", describe_axes(own_, symbols));
      return fmt::format("normalised({}; epsilon {}{})", fmt::join(symbols.inputs, ", "),
                         symbols.number(epsilon_), along);
    }
    return fmt::format("{} × {} + {}", normal_in(symbols), symbols.inputs[scale],
                       symbols.inputs[shift]);
  }

  [[nodiscard]] std::string reverse_symbols(const Symbols& symbols,
                                            std::size_t input) const override {
    const std::string gradient = "∂" + symbols.result;
    const std::string came = fmt::format("{} × {}", gradient, symbols.inputs[scale]);
    const std::string sum = summed_over(symbols, input);
    if (input == shift) return sum + gradient;
    if (input == scale) return fmt::format("{}{} × {}", sum, gradient, normal_in(symbols));
    if (input == centre) return fmt::format("{}−{}/{}", sum, came, root_in(symbols));
    if (input == variance_of) {
      return fmt::format("{}−{} × ({} − {})/(2 × {}^3)", sum, came, symbols.inputs[from],
                         symbols.inputs[centre], root_in(symbols));
    }
    if (own_ == 0) return fmt::format("{}/{}", came, root_in(symbols));
    const std::string along = describe_axes(own_, symbols);
    return fmt::format("(c − mean(c; {0}) − n × mean(c × n; {0}))/{1}, c = {2}, n = {3}", along,
                       root_in(symbols), came, normal_in(symbols));
  }

 private:
  [[nodiscard]] std::string root_in(const Symbols& symbols) const {
    return fmt::format("√({} + {})", symbols.inputs[variance_of], format_number(epsilon_));
  }
  [[nodiscard]] std::string normal_in(const Symbols& symbols) const {
    return fmt::format("({} − {})/{}", symbols.inputs[from], symbols.inputs[centre],
                       root_in(symbols));
  }

  static bool stretches(const Shape& shape, const Shape& to) {
    if (shape.rank() > to.rank()) return false;
    for (int axis = 1; axis <= shape.rank(); ++axis) {
      const std::int64_t extent = shape[shape.rank() - axis];
      if (extent != 1 && extent != to[to.rank() - axis]) return false;
    }
    return true;
  }

  /// Whether each column of x, and nothing smaller, has numbers of its own.
  [[nodiscard]] bool is_by_column(const Inputs& inputs) const {
    const Shape& x = inputs.shape(from);
    if (x.rank() < 2) return false;
    const int last = x.rank() - 1;
    for (std::size_t input = centre; input <= shift; ++input) {
      const Shape& shape = inputs.shape(input);
      if (shape.rank() == 0 || shape.count() != x[last] || shape[shape.rank() - 1] != x[last])
        return false;
    }
    return own_ == 0 || own_ == (1U << static_cast<unsigned>(last)) - 1U;
  }

  /// 1/√(variance + epsilon).
  [[nodiscard]] Tensor steepness(const Inputs& inputs) const {
    return kernels::map(inputs[variance_of], [this](const auto& variance) {
      return (variance + number_for(variance, epsilon_)).sqrt().inverse();
    });
  }
  [[nodiscard]] Tensor factor(const Inputs& inputs) const {
    return steepness(inputs).reshaped({inputs[scale].count()}) *
           inputs[scale].reshaped({inputs[scale].count()});
  }

  [[nodiscard]] Tensor brought_to_one(const Inputs& inputs) const {
    const Shape& shape = inputs.shape(from);
    const auto difference = [](const auto& x, const auto& mean) { return x - mean; };
    const auto product = [](const auto& x, const auto& factor) { return x * factor; };
    return kernels::stretch(shape,
                            kernels::stretch(shape, inputs[from], inputs[centre], difference),
                            steepness(inputs), product);
  }
  [[nodiscard]] static Tensor scaled(const Inputs& inputs, const Tensor& x) {
    return kernels::stretch(x.shape(), x, inputs[scale],
                            [](const auto& number, const auto& factor) { return number * factor; });
  }

  void by_column(const BackwardStep& step, const InputSet& wanted,
                 std::span<Tensor> passed_on) const {
    const Inputs& inputs = step.inputs;
    const Tensor& x = inputs[from];
    const Shape columns{inputs[scale].count()};
    const std::int64_t rows = x.count() / columns[0];
    const Tensor steep = steepness(inputs).reshaped(columns);
    const Tensor f = factor(inputs);
    const auto [sum, with_distance] = kernels::sums_of_columns(step.gradient, x, inputs[centre]);
    const auto pass = [&](std::size_t input, const Tensor& gradient) {
      if (wanted.test(input)) passed_on[input] = gradient.reshaped(inputs.shape(input));
    };
    pass(shift, sum);
    pass(scale, with_distance * steep);
    pass(centre, -(sum * f));
    pass(variance_of, -0.5 * with_distance * f * steep * steep);
    if (!wanted.test(from)) return;
    const double share = own_ == 0 ? 0.0 : 1.0 / static_cast<double>(rows);
    passed_on[from] =
        kernels::gradient_at_columns(step.gradient, x, inputs[centre], f, -share * sum * f,
                                     -share * with_distance * f * steep * steep);
  }

  void by_stretching(const BackwardStep& step, const InputSet& wanted,
                     std::span<Tensor> passed_on) const {
    const Inputs& inputs = step.inputs;
    const Shape& shape = inputs.shape(from);
    const Tensor normal = brought_to_one(inputs);
    const Tensor came = scaled(inputs, step.gradient);
    const Tensor steep = steepness(inputs);
    const auto pass = [&](std::size_t input, const Tensor& each) {
      passed_on[input] = kernels::sum_stretched(each, inputs.shape(input));
    };
    if (wanted.test(shift)) pass(shift, step.gradient);
    if (wanted.test(scale)) pass(scale, step.gradient * normal);
    if (wanted.test(centre)) pass(centre, -(came * steep));
    if (wanted.test(variance_of)) pass(variance_of, -0.5 * came * normal * steep * steep);
    if (!wanted.test(from)) return;
    if (own_ == 0) {
      passed_on[from] = came * steep;
      return;
    }
    const Shape one_each = kernels::kept(shape, own_);
    const std::int64_t in_each = shape.count() / one_each.count();
    const auto count = static_cast<double>(in_each);
    passed_on[from] = (came - kernels::sum(came, own_, one_each, count) -
                       normal * kernels::sum(came * normal, own_, one_each, count)) *
                      steep;
  }

  [[nodiscard]] static Formula cell(const Cells& cells, std::size_t input, const Index& at) {
    return cells.input(input, before_broadcast(cells.shape(input), at));
  }
  [[nodiscard]] Formula root(const Cells& cells, const Index& at) const {
    return sqrt(cell(cells, variance_of, at) + epsilon_);
  }
  [[nodiscard]] Formula normal(const Cells& cells, const Index& at) const {
    return (cells.input(from, at) - cell(cells, centre, at)) / root(cells, at);
  }
  [[nodiscard]] static Formula came(const Cells& cells, const Index& at) {
    return cells.gradient(at) * cell(cells, scale, at);
  }

  /// The mean of `make(place)` over the numbers that share a mean with the one at a place.
  template <class Make>
  [[nodiscard]] Formula mean_along(const Cells& cells, const Index& at, int which,
                                   const char* called, Make make) const {
    Index first = at;
    for (int axis = 0; axis < at.rank(); ++axis) {
      if (kernels::contains(own_, axis)) first[axis] = 0;
    }
    return cells.in_common(which, first, [&] {
      std::vector<Formula> terms;
      for (const Index& place : places_along(own_, cells.result_shape(), at))
        terms.push_back(make(place));
      return Formula::shorthand(called, Formula::mean(std::move(terms)));
    });
  }

  /// The inputs in their order.
  static constexpr std::size_t from = 0;
  static constexpr std::size_t centre = 1;
  static constexpr std::size_t variance_of = 2;
  static constexpr std::size_t scale = 3;
  static constexpr std::size_t shift = 4;

  double epsilon_;
  AxisSet own_;
};

void check_small(const NormalisationSettings& settings) {
  if (settings.epsilon > 0.0 && std::isfinite(settings.epsilon)) return;
  throw SettingError({.what = "this epsilon is not above 0",
                      .expected = "a number above 0, such as 1e-5",
                      .found = fmt::format("{}", settings.epsilon)});
}

template <Operand X>
X normalised(const X& x, const X& mean, const X& variance, const X& scale_by, const X& shift_by,
             const NormalisationSettings& settings, AxisSet own) {
  check_small(settings);
  if (settings.form != Form::one_line) {
    const X centred = described("centred", x - mean);
    const X deviation = described(
        "deviation", sqrt(described("variance_and_epsilon", variance + settings.epsilon)));
    const X normal = described("normal", centred / deviation);
    return described("scaled", normal * scale_by) + shift_by;
  }
  return apply(Normalising(settings.epsilon, own), x, mean, variance, scale_by, shift_by);
}

}  // namespace

template <Operand X>
X normalised(const X& x, const X& mean, const X& variance, const X& scale, const X& shift,
             const NormalisationSettings& settings) {
  return normalised(x, mean, variance, scale, shift, settings, AxisSet{0});
}

template <Operand X>
Normalised<X> normalised_along(const X& x, const X& scale, const X& shift, const Along& along,
                               const NormalisationSettings& settings) {
  const AxisSet axes = axes_in("normalised_along", along, x.shape());
  // What is left of the first axes stretches to x by itself.
  const bool are_first = (axes & (axes + 1)) == 0;
  const Along kept{.axes = along.axes, .keep = along.keep || !are_first};
  const X centre = mean(x, kept);
  const X spread = variance(x, kept);
  return {normalised(x, centre, spread, scale, shift, settings, axes), centre, spread};
}

template <Operand X>
X normalised_of_itself(const X& x, const X& mean, const X& variance, const X& scale, const X& shift,
                       const Along& along, const NormalisationSettings& settings) {
  return normalised(x, mean, variance, scale, shift, settings,
                    axes_in("normalised", along, x.shape()));
}

template Line normalised_of_itself(const Line&, const Line&, const Line&, const Line&, const Line&,
                                   const Along&, const NormalisationSettings&);
template Tensor normalised_of_itself(const Tensor&, const Tensor&, const Tensor&, const Tensor&,
                                     const Tensor&, const Along&, const NormalisationSettings&);
template Line normalised(const Line&, const Line&, const Line&, const Line&, const Line&,
                         const NormalisationSettings&);
template Tensor normalised(const Tensor&, const Tensor&, const Tensor&, const Tensor&,
                           const Tensor&, const NormalisationSettings&);
template Normalised<Line> normalised_along(const Line&, const Line&, const Line&, const Along&,
                                           const NormalisationSettings&);
template Normalised<Tensor> normalised_along(const Tensor&, const Tensor&, const Tensor&,
                                             const Along&, const NormalisationSettings&);

}  // namespace lattice
