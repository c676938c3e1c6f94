#pragma once

#include <array>
#include <concepts>
#include <cstddef>
#include <cstdint>
#include <string>
#include <string_view>
#include <utility>

#include "lattice/text/error.hpp"
#include "lattice/worksheet/detail/scalar.hpp"
#include "lattice/worksheet/worksheet.hpp"

namespace lattice {

namespace detail {

/// Refuses a name that is empty, too long, or no plain text in one line. @throws NameError.
void check_own_name(std::string_view name, std::size_t longest);

}  // namespace detail

/// An operation of one's own on every number of a tensor, made by `own_operation`; or on every
/// number and its counterpart, made by `own_comparison`. Called on lines it is written down,
/// explained and checked like any other; called on tensors it just calculates.
template <class Value, class Slope, std::size_t count>
class OwnOperation final : public Operation {
 public:
  static_assert(count == 1 || count == 2);
  static constexpr std::size_t longest_name = 31;

  OwnOperation(std::string_view name, Value value, Slope slope) : value_(value), slope_(slope) {
    detail::check_own_name(name, longest_name);
    name.copy(name_.data(), longest_name);
  }

  template <Operand X, std::same_as<X>... More>
  requires(sizeof...(More) + 1 == count) [[nodiscard]] X operator()(const X& x,
                                                                    const More&... more) const {
    return apply(*this, x, more...);
  }

  [[nodiscard]] std::string_view name() const override { return name_.data(); }
  [[nodiscard]] OperationNature nature() const override {
    return {.is_own = true, .goes_by_axis = true};
  }

  [[nodiscard]] Shape shape(const Inputs& inputs) const override {
    if (count == 2 && inputs.shape(0) != inputs.shape(count - 1)) {
      throw ShapeError({.what = std::string(name()) + " compares numbers one by one",
                        .expected = "two tensors of one shape",
                        .found = inputs.describe(0) + " and " + inputs.describe(count - 1)});
    }
    return inputs.shape(0);
  }

  /// What something is compared with gets no gradient.
  [[nodiscard]] bool passes_back(std::size_t input) const override { return input == 0; }
  [[nodiscard]] Passing passing(std::size_t) const override {
    return {.kind = Passing::Kind::number_by_number};
  }

  [[nodiscard]] Tensor forward(const Inputs& inputs, const Shape&) const override {
    return of_each_input([&](auto... input) { return each(value_, inputs[input]...); });
  }

  [[nodiscard]] Tensor reverse(const BackwardStep& step, std::size_t) const override {
    return of_each_input([&](auto... input) {
      return each(
          [this](auto gradient, auto y, auto... x) { return gradient * this->slope_at(y, x...); },
          step.gradient, step.result, step.inputs[input]...);
    });
  }

  [[nodiscard]] Formula element(const Cells& cells, const Index& at) const override {
    return of_each_input([&](auto... input) { return value_of(cells.input(input, at)...); });
  }

  [[nodiscard]] Formula reverse_element(const Cells& cells, std::size_t,
                                        const Index& at) const override {
    return of_each_input([&](auto... input) {
      return cells.gradient(at) * slope_of(cells.result(at), cells.input(input, at)...);
    });
  }

  [[nodiscard]] std::string symbols(const Symbols& symbols) const override {
    return called(std::string(name()), symbols);
  }

  [[nodiscard]] std::string reverse_symbols(const Symbols& symbols, std::size_t) const override {
    return "∂" + symbols.result + " × " + called(slope_name(), symbols);
  }

 private:
  /// A function of the places of all inputs.
  template <class F>
  static auto of_each_input(F f) {
    return [&]<std::size_t... input>(std::index_sequence<input...>) {
      return f(input...);
    }
    (std::make_index_sequence<count>());
  }

  template <class>
  using NumberFor = double;

  static std::string called(const std::string& function, const Symbols& symbols) {
    std::string text = function + "(" + symbols.inputs[0];
    if (count == 2) text += ", " + symbols.inputs[count - 1];
    return text + ")";
  }

  /// The slope may take the result as one more number, the last.
  template <class X, class... Xs>
  [[nodiscard]] auto slope_at(const X& y, const Xs&... x) const {
    if constexpr (std::invocable<const Slope&, Xs..., X>) {
      return slope_(x..., y);
    } else {
      return slope_(x...);
    }
  }

  [[nodiscard]] std::string slope_name() const { return std::string(name()) + "′"; }

  /// A generic function is written out; one of `double` appears by its name.
  template <class... Xs>
  [[nodiscard]] Formula value_of(const Xs&... x) const {
    if constexpr (std::invocable<const Value&, Xs...>) {
      return value_(x...);
    } else {
      return Formula::function(
          std::string(name()),
          [value = value_](std::span<const double> arguments) {
            return of_each_input([&](auto... input) { return value(arguments[input]...); });
          },
          {x...});
    }
  }
  template <class... Xs>
  [[nodiscard]] Formula slope_of(const Formula& y, const Xs&... x) const {
    if constexpr (std::invocable<const Slope&, Xs..., Formula> ||
                  std::invocable<const Slope&, Xs...>) {
      return slope_at(y, x...);
    } else {
      const auto slope = [*this](std::span<const double> arguments) {
        return static_cast<double>(of_each_input(
            [&](auto... input) { return slope_at(arguments.back(), arguments[input]...); }));
      };
      constexpr bool takes_result = std::invocable<const Slope&, NumberFor<Xs>..., double>;
      return takes_result ? Formula::function(slope_name(), slope, {x..., y})
                          : Formula::function(slope_name(), slope, {x...});
    }
  }

  /// A tensor of the numbers that `f` gives for the numbers of tensors of one shape.
  template <class F, class... Tensors>
  static Tensor each(F f, const Tensor& x, const Tensors&... more) {
    Tensor result = Tensor::unfilled(x.shape(), x.precision());
    const auto fill = [&]<class T>(T) {
      T* const to = result.writable<T>();
      write_each(f, result.count(), to, x.data<T>(), more.template data<T>()...);
    };
    if (result.precision() == Precision::double_) {
      fill(double{});
    } else {
      fill(float{});
    }
    return result;
  }

  template <class F, class T, class... Numbers>
  static void write_each(F f, std::int64_t numbers, T* to, const Numbers*... from) {
    for (std::int64_t i = 0; i < numbers; ++i)
      to[i] = static_cast<T>(f(from[i]...));
  }

  std::array<char, longest_name + 1> name_{};
  Value value_;
  Slope slope_;
};

/// Makes an operation from a function of one number and its derivative. Written generically, with
/// `auto` and with functions named without `std::`, both are shown as plain arithmetic by
/// `explain`; the derivative may also take the result as a second number. What they capture must be
/// plain data.
///
/// @code
/// const auto swish = own_operation(
///     "swish", [](auto x) { return x / (1 + exp(-x)); },
///     [](auto x, auto y) { return y / x + y * (1 - y / x); });
/// Line h = named("h", swish(z));
/// @endcode
/// @throws NameError for an empty name, one of more than 31 bytes, or one that is no plain text in
///         one line.
template <class Value, class Slope>
[[nodiscard]] OwnOperation<Value, Slope, 1> own_operation(std::string_view name, Value value,
                                                          Slope slope) {
  return {name, value, slope};
}

/// Makes a comparison of numbers with others, such as outputs with targets, from a function of the
/// two and its derivative by the first; the second gets no gradient. Both are as those of
/// `own_operation`; the derivative may take the result as a third number.
///
/// @code
/// const auto smooth = own_comparison(
///     "smooth", [](auto z, auto t) { return sqrt(1 + square(z - t)) - 1; },
///     [](auto z, auto t, auto loss) { return (z - t) / (loss + 1); });
/// const OwnLoss smooth_error{.word = "smooth error", .lost = smooth};
/// @endcode
/// @throws NameError as `own_operation` does.
template <class Value, class Slope>
[[nodiscard]] OwnOperation<Value, Slope, 2> own_comparison(std::string_view name, Value value,
                                                           Slope slope) {
  return {name, value, slope};
}

}  // namespace lattice
