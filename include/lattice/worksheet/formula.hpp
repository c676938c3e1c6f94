#pragma once

#include <concepts>
#include <functional>
#include <memory>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <vector>

#include "lattice/tensor/precision.hpp"
#include "lattice/tensor/shape.hpp"
#include "lattice/text/numbers.hpp"

namespace lattice {

/// One number of a calculation, as a formula refers to it.
struct Cell {
  /// Which of the numbers that belong to a place is meant.
  enum class Kind {
    value,       ///< the number on the line
    gradient,    ///< how the result of the sweep changes with it
    setting,     ///< a number of an update rule, such as the rate
    remembered,  ///< a number that a rule has kept from the update before
  };

  Kind kind = Kind::value;
  std::string name = {};  ///< of the line, of the setting, or of what is remembered
  Index at = {};
  double number = 0.0;
  std::size_t line = 0;  ///< the number of the line in its worksheet; 0 for a setting
};

/// `W[1,0]` for a value, `∂W[1,0]` for a gradient, `rate` for a setting.
[[nodiscard]] std::string to_string(const Cell& cell);

class Formula;

/// How a formula is written down.
struct Notation {
  bool filled_in = false;       ///< numbers in place of the names of cells
  int digits = usual_digits;    ///< significant digits of numbers
  std::string times = "·";      ///< the sign between factors
  std::size_t longest_sum = 6;  ///< more terms than this are shortened, with count and subtotal

  /// What stands in place of the number of a cell or a shorthand, where numbers are filled in; the
  /// number where it has nothing to say.
  std::function<std::optional<std::string>(const Formula&)> write = nullptr;
};

/// A question about two numbers, on whose answer a formula depends.
struct Condition {
  enum class Relation { above, at_least, equal };

  Relation relation;
  std::shared_ptr<const Formula> left;
  std::shared_ptr<const Formula> right;

  [[nodiscard]] bool holds(Precision precision = Precision::double_) const;

  /// A formula keeps both sides of a branch: `where(x > 0, x, 0.1 * x)`.
  template <std::same_as<bool> Bool>
  explicit operator Bool() const {
    static_assert(!std::same_as<Bool, bool>,
                  "write where(x > 0, a, b) for a branch: an operation of your own is shown as a "
                  "formula, which keeps both sides of x > 0 ? a : b");
    return false;
  }
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
  enum class Kind {
    number,
    cell,
    sum,
    difference,
    product,
    quotient,
    negation,
    power,     ///< of two parts; `x²` is one
    function,  ///< a named function of its parts
    choice,    ///< the first part when a condition holds, else the second
    pick,      ///< the one of its parts whose number another formula gives
    shorthand  ///< its only part, written by a name of its own
  };

  /// What a named function does with its arguments.
  using Function = std::function<double(std::span<const double>)>;

  Formula(double number);
  explicit Formula(Cell cell);

  /// A sum of any number of terms; of one term, that term; a sum of none is 0.
  [[nodiscard]] static Formula sum(std::vector<Formula> terms);

  /// A named function: `exp(x)`, `max(a, b, c)`.
  [[nodiscard]] static Formula function(std::string name, Function function,
                                        std::vector<Formula> arguments);

  /// One of those that formulas know: `exp`, `log`, `tanh`, `√`, `abs`, `sin`, `cos`, `atan`,
  /// `max`, `min`, `mean`, `argmax`, `argmin`.
  [[nodiscard]] static Formula function(std::string_view name, std::vector<Formula> arguments);

  /// The largest, the smallest and the mean of one formula or more.
  [[nodiscard]] static Formula largest(std::vector<Formula> formulas);
  [[nodiscard]] static Formula smallest(std::vector<Formula> formulas);
  [[nodiscard]] static Formula mean(std::vector<Formula> formulas);

  /// One of two formulas, as the condition says.
  [[nodiscard]] static Formula choice(Condition condition, Formula when, Formula otherwise);

  /// One of several formulas: the one whose number, from 0, `which` gives. Written as that one. Of
  /// another number it gives NaN.
  [[nodiscard]] static Formula pick(Formula which, std::vector<Formula> options);

  /// A formula that is written as a short name, such as `m`, and told once by itself: see
  /// `shorthands`. Where a text has several with one name they are numbered.
  [[nodiscard]] static Formula shorthand(std::string name, Formula formula);

  /// A formula that is worked in double, whatever precision is asked for, and then rounded once:
  /// what an update works out once for all numbers, such as 1 − β2.
  [[nodiscard]] static Formula once(const Formula& formula);

  friend Formula operator+(const Formula& a, const Formula& b);
  friend Formula operator-(const Formula& a, const Formula& b);
  friend Formula operator*(const Formula& a, const Formula& b);
  friend Formula operator/(const Formula& a, const Formula& b);
  friend Formula operator-(const Formula& a);
  friend Formula pow(const Formula& a, const Formula& b);

  [[nodiscard]] Kind kind() const;
  [[nodiscard]] std::span<const Formula> parts() const;
  [[nodiscard]] const Cell& cell() const;
  [[nodiscard]] const std::string& function_name() const;

  /// What a choice depends on.
  [[nodiscard]] const Condition& condition() const;

  /// What gives the number of the part that is picked; and that part, nothing where there is none.
  [[nodiscard]] const Formula& which() const;
  [[nodiscard]] const Formula* picked() const;

  /// The number that this formula gives, with every step rounded to a precision, but for what is
  /// worked `once`.
  [[nodiscard]] double evaluate(Precision precision = Precision::double_) const;

  /// The innermost part that is NaN or infinite though all its own parts are not. Nothing when the
  /// formula gives an ordinary number; a cell when the trouble came with that.
  [[nodiscard]] std::optional<Formula> first_not_finite(Precision precision) const;

  /// The formula in one line of text.
  [[nodiscard]] std::string text(const Notation& notation = {}) const;

  /// What the short names in `text` stand for, in the order in which they appear.
  struct Definition {
    std::string name;  ///< `m`, or `m₁`, `m₂` … where there are several
    std::string text;  ///< what it stands for, in the same notation
    double number;     ///< and gives
  };
  [[nodiscard]] std::vector<Definition> shorthands(const Notation& notation = {}) const;

  /// The shorthands in the formula, those inside others first, and each name once; but for those
  /// that are worked `once`, which are not this number's own.
  [[nodiscard]] std::vector<Formula> shorthand_parts() const;

  /// The numbers that `text` and `shorthands` show, in that order and each once.
  [[nodiscard]] std::vector<Cell> cells(const Notation& notation = {}) const;

 private:
  struct Node;
  explicit Formula(std::shared_ptr<const Node> node);
  static Formula make(Kind kind, std::vector<Formula> parts);
  [[nodiscard]] double evaluate_here(Precision precision) const;
  template <class Visit>
  void each_shown(const Notation& notation, const Visit& visit) const;

  friend class FormulaWriter;

  std::shared_ptr<const Node> node_;
};

/// Whether a number that a formula gives is no more than what rounding leaves where terms cancel:
/// 3.5e−17 from terms near 1. On paper it is 0, or as good as 0.
/// @param number as it was worked in this precision
[[nodiscard]] bool is_residue(const Formula& formula, double number, Precision precision);

[[nodiscard]] Condition operator>(const Formula& a, const Formula& b);
[[nodiscard]] Condition operator<(const Formula& a, const Formula& b);
[[nodiscard]] Condition operator>=(const Formula& a, const Formula& b);
[[nodiscard]] Condition operator==(const Formula& a, const Formula& b);

[[nodiscard]] Formula square(const Formula& x);
[[nodiscard]] Formula sqrt(const Formula& x);
[[nodiscard]] Formula exp(const Formula& x);
[[nodiscard]] Formula log(const Formula& x);
[[nodiscard]] Formula tanh(const Formula& x);
[[nodiscard]] Formula abs(const Formula& x);
[[nodiscard]] Formula sin(const Formula& x);
[[nodiscard]] Formula cos(const Formula& x);
[[nodiscard]] Formula atan(const Formula& x);

/// exp(x) − 1 and log(1 + x): written out, since on paper there is nothing to lose.
[[nodiscard]] Formula expm1(const Formula& x);
[[nodiscard]] Formula log1p(const Formula& x);

}  // namespace lattice
