#pragma once

#include <cstdint>
#include <string>
#include <string_view>

#include "lattice/tensor/tensor.hpp"

namespace lattice {

/// How a weight is initialised.
///
/// @code
/// Dense{.outputs = 8, .start = Start::normal(0.05)}
/// @endcode
class Start {
 public:
  [[nodiscard]] static Start zeros();
  [[nodiscard]] static Start constant(double number);
  [[nodiscard]] static Start uniform(double low, double high);

  /// Normally distributed with mean 0. @throws SettingError for a standard deviation below 0.
  [[nodiscard]] static Start normal(double standard_deviation);

  /// Normally distributed with mean 0 and standard deviation √(2 / (inputs + outputs)), for tanh
  /// and sigmoid. Source: Glorot and Bengio, 2010.
  [[nodiscard]] static Start xavier();

  /// Normally distributed with mean 0 and standard deviation √(2 / inputs), for ReLU and the like.
  /// Source: He, Zhang, Ren and Sun, 2015.
  [[nodiscard]] static Start he();

  /// Given numbers.
  [[nodiscard]] static Start numbers(Tensor numbers);

  /// Draws a tensor.
  /// @param inputs,outputs the number of inputs of a unit, and of units that an input goes to
  /// @throws ShapeError when the count of given numbers does not fit the shape.
  [[nodiscard]] Tensor draw(const Shape& shape, std::int64_t inputs, std::int64_t outputs,
                            Random& random, Precision precision = Precision::double_) const;

  /// As in a blueprint: `xavier`, `normal 0.05`, `uniform -0.1 0.1`.
  [[nodiscard]] std::string text() const;

  friend bool operator==(const Start&, const Start&) = default;

 private:
  enum class Kind : std::uint8_t { zeros, constant, uniform, normal, xavier, he, numbers };

  explicit Start(Kind kind, double first = 0.0, double second = 0.0)
      : kind_(kind), first_(first), second_(second) {}

  Kind kind_;
  double first_;
  double second_;
  Tensor numbers_ = {};
};

/// Reads a start from its words: `he`, `normal 0.05`. @throws SettingError that lists what is
/// allowed.
[[nodiscard]] Start parse_start(std::string_view text);

}  // namespace lattice
