#pragma once

#include <algorithm>
#include <array>
#include <concepts>
#include <string>
#include <string_view>

#include "lattice/text/error.hpp"
#include "lattice/worksheet/detail/scalar.hpp"
#include "lattice/worksheet/worksheet.hpp"

namespace lattice {

/// An operation of one's own on every number of a tensor, made by `own_operation`. Called on lines
/// it is written down, explained and checked like any other; called on tensors it just calculates.
template <class Value, class Slope>
class OwnOperation final : public Operation {
 public:
  static constexpr std::size_t longest_name = 31;

  OwnOperation(std::string_view name, Value value, Slope slope) : value_(value), slope_(slope) {
    if (name.empty() || name.size() > longest_name) {
      throw NameError({.what = "an operation cannot have this name",
                       .expected = "1 to 31 letters",
                       .found = "'" + std::string(name) + "'"});
    }
    std::ranges::copy(name, name_.begin());
  }

  template <Operand X>
  [[nodiscard]] X operator()(const X& x) const {
    return apply(*this, x);
  }

  [[nodiscard]] std::string_view name() const override { return name_.data(); }
  [[nodiscard]] Shape shape(const Inputs& inputs) const override { return inputs.shape(0); }

  [[nodiscard]] Tensor forward(const Inputs& inputs, const Shape&) const override {
    return each([this](auto x) { return value_(x); }, inputs[0]);
  }

  [[nodiscard]] Tensor reverse(const Arrival& step, std::size_t) const override {
    return each([this](auto x, auto y, auto arrived) { return arrived * slope_at(x, y); },
                step.inputs[0], step.result, step.arrived);
  }

  [[nodiscard]] Formula element(const Cells& cells, const Index& at) const override {
    return value_of(cells.input(0, at));
  }

  [[nodiscard]] Formula reverse_element(const Cells& cells, std::size_t,
                                        const Index& at) const override {
    return cells.arrived(at) * slope_of(cells.input(0, at), cells.result(at));
  }

  [[nodiscard]] std::string symbols(const Symbols& symbols) const override {
    return std::string(name()) + "(" + symbols.inputs[0] + ")";
  }

  [[nodiscard]] std::string reverse_symbols(const Symbols& symbols, std::size_t) const override {
    return "∂" + symbols.result + " × " + slope_name() + "(" + symbols.inputs[0] + ")";
  }

 private:
  static constexpr bool slope_takes_result = std::invocable<const Slope&, double, double>;

  template <class X>
  [[nodiscard]] auto slope_at(const X& x, const X& y) const {
    if constexpr (slope_takes_result) {
      return slope_(x, y);
    } else {
      return slope_(x);
    }
  }

  [[nodiscard]] std::string slope_name() const { return std::string(name()) + "′"; }

  /// A generic function is written out; one of `double` appears by its name.
  [[nodiscard]] Formula value_of(const Formula& x) const {
    if constexpr (std::invocable<const Value&, Formula>) {
      return value_(x);
    } else {
      return Formula::function(
          std::string(name()),
          [value = value_](std::span<const double> arguments) { return value(arguments[0]); }, {x});
    }
  }
  [[nodiscard]] Formula slope_of(const Formula& x, const Formula& y) const {
    if constexpr (std::invocable<const Slope&, Formula, Formula> ||
                  (!slope_takes_result && std::invocable<const Slope&, Formula>)) {
      return slope_at(x, y);
    } else {
      const auto slope = [*this](std::span<const double> arguments) {
        return static_cast<double>(slope_at(arguments.front(), arguments.back()));
      };
      return slope_takes_result ? Formula::function(slope_name(), slope, {x, y})
                                : Formula::function(slope_name(), slope, {x});
    }
  }

  /// A tensor of the numbers that `f` gives for the numbers of tensors of one shape.
  template <class F, class... Tensors>
  static Tensor each(F f, const Tensor& x, const Tensors&... more) {
    Tensor result = Tensor::unfilled(x.shape(), x.precision());
    const auto fill = [&]<class T>(T) {
      T* const to = result.writable<T>();
      for (std::int64_t i = 0; i < result.count(); ++i)
        to[i] = static_cast<T>(f(x.data<T>()[i], more.template data<T>()[i]...));
    };
    if (result.precision() == Precision::double_) {
      fill(double{});
    } else {
      fill(float{});
    }
    return result;
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
/// @throws NameError for an empty name, or one of more than 31 bytes.
template <class Value, class Slope>
[[nodiscard]] OwnOperation<Value, Slope> own_operation(std::string_view name, Value value,
                                                       Slope slope) {
  return {name, value, slope};
}

}  // namespace lattice
