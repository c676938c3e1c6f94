#pragma once

#include <memory>
#include <span>
#include <string>
#include <vector>

#include "lattice/tensor/numbers.hpp"
#include "lattice/tensor/shape.hpp"

namespace lattice {

/// One number of a calculation, as a formula refers to it.
struct Cell {
  /// Which of the numbers that belong to a place is meant.
  enum class Kind {
    value,     ///< the number on the line
    gradient,  ///< how the result of the sweep changes with it
    setting    ///< a number of an update rule, such as the rate
  };

  Kind kind = Kind::value;
  std::string name = {};  ///< of the line, or of the setting
  Index at = {};
  double number = 0.0;
};

/// `W[1,0]` for a value, `∂W[1,0]` for a gradient, `rate` for a setting.
[[nodiscard]] std::string to_string(const Cell& cell);

/// How a formula is written down.
struct Notation {
  bool filled_in = false;       ///< numbers in place of the names of cells
  int digits = usual_digits;    ///< significant digits of numbers
  std::string times = "·";      ///< the sign between factors
  std::size_t longest_sum = 6;  ///< more terms than this are shortened, with count and subtotal
};

/// How one number is made from other numbers: a tree that can be evaluated and printed.
///
/// Formulas are written like arithmetic, and the functions of `scalar.hpp` take them, so a function
/// that is generic in its number type can be called on a formula to find out what it does.
///
/// @code
/// const auto f = [](auto x) { return 1 / (1 + exp(-x)); };
/// f(0.5);                                              // 0.6224…
/// f(Formula(Cell{.name = "z", .number = 0.5})).text(); // 1/(1 + exp(−z))
/// @endcode
class Formula {
 public:
  enum class Kind { number, cell, sum, difference, product, quotient, negation, square, function };

  Formula(double number);
  explicit Formula(Cell cell);

  /// A sum or product of any number of terms; of one term, that term; a sum of none is 0.
  [[nodiscard]] static Formula sum(std::vector<Formula> terms);

  /// A named function of one number: exp, log, tanh.
  [[nodiscard]] static Formula function(double (*function)(double), std::string name,
                                        Formula argument);

  friend Formula operator+(const Formula& a, const Formula& b);
  friend Formula operator-(const Formula& a, const Formula& b);
  friend Formula operator*(const Formula& a, const Formula& b);
  friend Formula operator/(const Formula& a, const Formula& b);
  friend Formula operator-(const Formula& a);
  friend Formula square(const Formula& a);

  [[nodiscard]] Kind kind() const;
  [[nodiscard]] std::span<const Formula> parts() const;
  [[nodiscard]] const Cell& cell() const;

  /// The number that this formula gives.
  [[nodiscard]] double evaluate() const;

  /// The formula in one line of text.
  [[nodiscard]] std::string text(const Notation& notation = {}) const;

 private:
  struct Node;
  explicit Formula(std::shared_ptr<const Node> node);
  static Formula make(Kind kind, std::vector<Formula> parts);

  std::shared_ptr<const Node> node_;
};

[[nodiscard]] Formula exp(const Formula& x);
[[nodiscard]] Formula log(const Formula& x);
[[nodiscard]] Formula tanh(const Formula& x);

}  // namespace lattice
