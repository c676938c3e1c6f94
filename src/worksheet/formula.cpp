#include "lattice/worksheet/formula.hpp"

#include <algorithm>
#include <cmath>
#include <limits>
#include <utility>

#include "worksheet/formula_functions.hpp"
#include "worksheet/formula_node.hpp"

namespace lattice {

std::string to_string(const Cell& cell) {
  return (cell.kind == Cell::Kind::gradient ? "∂" : "") + cell.name + to_string(cell.at);
}

namespace {

double rounded(double number, Precision precision) {
  return precision == Precision::double_ ? number : static_cast<double>(static_cast<float>(number));
}

Condition compared(Condition::Relation relation, const Formula& left, const Formula& right) {
  return {relation, std::make_shared<const Formula>(left), std::make_shared<const Formula>(right)};
}

}  // namespace

Formula::Formula(std::shared_ptr<const Node> node) : node_(std::move(node)) {}

Formula::Formula(double number) : node_(std::make_shared<const Node>(Node{.number = number})) {}

Formula::Formula(Cell cell)
    : node_(std::make_shared<const Node>(Node{.kind = Kind::cell, .cell = std::move(cell)})) {}

Formula Formula::make(Kind kind, std::vector<Formula> parts) {
  return Formula(std::make_shared<const Node>(Node{.kind = kind, .parts = std::move(parts)}));
}

Formula Formula::sum(std::vector<Formula> terms) {
  if (terms.empty()) return 0.0;
  if (terms.size() == 1) return terms.front();
  return make(Kind::sum, std::move(terms));
}

Formula Formula::function(std::string name, Function function, std::vector<Formula> arguments) {
  return Formula(std::make_shared<const Node>(Node{.kind = Kind::function,
                                                   .parts = std::move(arguments),
                                                   .function = std::move(function),
                                                   .function_name = std::move(name)}));
}

Formula Formula::function(std::string_view name, std::vector<Formula> arguments) {
  return function(std::string(name), formula_function(name)->value, std::move(arguments));
}

Formula Formula::largest(std::vector<Formula> formulas) {
  return formulas.size() == 1 ? formulas.front() : function("max", std::move(formulas));
}

Formula Formula::smallest(std::vector<Formula> formulas) {
  return formulas.size() == 1 ? formulas.front() : function("min", std::move(formulas));
}

Formula Formula::mean(std::vector<Formula> formulas) {
  return function("mean", std::move(formulas));
}

Formula Formula::choice(Condition condition, Formula when, Formula otherwise) {
  return Formula(std::make_shared<const Node>(Node{.kind = Kind::choice,
                                                   .parts = {std::move(when), std::move(otherwise)},
                                                   .condition = std::move(condition)}));
}

Formula Formula::pick(Formula which, std::vector<Formula> options) {
  return Formula(std::make_shared<const Node>(
      Node{.kind = Kind::pick,
           .parts = std::move(options),
           .which = std::make_shared<const Formula>(std::move(which))}));
}

Formula Formula::shorthand(std::string name, Formula formula) {
  const double in_double = formula.evaluate(Precision::double_);
  const double in_single = formula.evaluate(Precision::single);
  return Formula(std::make_shared<const Node>(Node{.kind = Kind::shorthand,
                                                   .parts = {std::move(formula)},
                                                   .function_name = std::move(name),
                                                   .in_double = in_double,
                                                   .in_single = in_single}));
}

Formula Formula::once(const Formula& formula) {
  Node node = *formula.node_;
  node.is_once = true;
  node.in_single = node.in_double;
  return Formula(std::make_shared<const Node>(std::move(node)));
}

bool is_residue(const Formula& formula, double number, Precision precision) {
  using Kind = Formula::Kind;
  if (number == 0.0 || !std::isfinite(number)) return false;
  const std::span<const Formula> parts = formula.parts();
  const auto is_constant = [&](std::size_t part) { return parts[part].kind() == Kind::number; };
  switch (formula.kind()) {
    case Kind::negation:
      return is_residue(parts[0], number, precision);
    case Kind::pick:
      return is_residue(*formula.picked(), number, precision);
    case Kind::quotient:
      return is_constant(1) && is_residue(parts[0], number * parts[1].evaluate(), precision);
    case Kind::product:
      if (is_constant(0)) return is_residue(parts[1], number / parts[0].evaluate(), precision);
      return is_constant(1) && is_residue(parts[0], number / parts[1].evaluate(), precision);
    case Kind::sum:
    case Kind::difference: {
      double largest = 0.0;
      for (const Formula& term : parts)
        largest = std::max(largest, std::abs(term.evaluate(precision)));
      const double smallest_step = precision == Precision::single
                                       ? std::numeric_limits<float>::epsilon()
                                       : std::numeric_limits<double>::epsilon();
      return std::abs(number) <= static_cast<double>(parts.size()) * smallest_step * largest;
    }
    default:
      return false;
  }
}

bool Condition::holds(Precision precision) const {
  const double a = left->evaluate(precision);
  const double b = right->evaluate(precision);
  switch (relation) {
    case Relation::above:
      return a > b;
    case Relation::at_least:
      return a >= b;
    case Relation::equal:
      return a == b;
  }
  return false;
}

Formula operator+(const Formula& a, const Formula& b) {
  std::vector<Formula> terms;
  if (a.kind() == Formula::Kind::sum) {
    terms.assign(a.parts().begin(), a.parts().end());
  } else {
    terms.push_back(a);
  }
  terms.push_back(b);
  return Formula::sum(std::move(terms));
}

Formula operator-(const Formula& a, const Formula& b) {
  return Formula::make(Formula::Kind::difference, {a, b});
}

Formula operator*(const Formula& a, const Formula& b) {
  return Formula::make(Formula::Kind::product, {a, b});
}

Formula operator/(const Formula& a, const Formula& b) {
  return Formula::make(Formula::Kind::quotient, {a, b});
}

Formula operator-(const Formula& a) {
  return Formula::make(Formula::Kind::negation, {a});
}

Formula pow(const Formula& a, const Formula& b) {
  return Formula::make(Formula::Kind::power, {a, b});
}

Condition operator>(const Formula& a, const Formula& b) {
  return compared(Condition::Relation::above, a, b);
}
Condition operator<(const Formula& a, const Formula& b) {
  return compared(Condition::Relation::above, b, a);
}
Condition operator>=(const Formula& a, const Formula& b) {
  return compared(Condition::Relation::at_least, a, b);
}
Condition operator==(const Formula& a, const Formula& b) {
  return compared(Condition::Relation::equal, a, b);
}

Formula square(const Formula& x) {
  return pow(x, 2.0);
}

Formula sqrt(const Formula& x) {
  return Formula::function("√", {x});
}

Formula exp(const Formula& x) {
  return Formula::function("exp", {x});
}

Formula log(const Formula& x) {
  return Formula::function("log", {x});
}

Formula tanh(const Formula& x) {
  return Formula::function("tanh", {x});
}

Formula abs(const Formula& x) {
  return Formula::function("abs", {x});
}

Formula sin(const Formula& x) {
  return Formula::function("sin", {x});
}

Formula cos(const Formula& x) {
  return Formula::function("cos", {x});
}

Formula atan(const Formula& x) {
  return Formula::function("atan", {x});
}

Formula expm1(const Formula& x) {
  return exp(x) - 1.0;
}

Formula log1p(const Formula& x) {
  return log(1.0 + x);
}

Formula::Kind Formula::kind() const {
  return node_->kind;
}

std::span<const Formula> Formula::parts() const {
  return node_->parts;
}

const Cell& Formula::cell() const {
  return node_->cell;
}

const std::string& Formula::function_name() const {
  return node_->function_name;
}

const Condition& Formula::condition() const {
  return *node_->condition;
}

const Formula& Formula::which() const {
  return *node_->which;
}

const Formula* Formula::picked() const {
  const double number = which().evaluate();
  const bool is_there =
      number >= 0.0 && number < static_cast<double>(parts().size()) && number == std::trunc(number);
  return is_there ? &parts()[static_cast<std::size_t>(number)] : nullptr;
}

namespace {

bool is_function(const Formula& formula, std::string_view name) {
  return formula.kind() == Formula::Kind::function && formula.function_name() == name;
}

/// exp(x) − 1.
bool is_power_less_1(const Formula& difference) {
  const Formula& one = difference.parts()[1];
  return is_function(difference.parts()[0], "exp") && one.kind() == Formula::Kind::number &&
         one.evaluate() == 1.0;
}

bool is_log_of_sum(const Formula& formula) {
  return is_function(formula, "log") && formula.parts()[0].kind() == Formula::Kind::sum;
}

/// log Σ terms, from what the others add to the largest: log(1 + 1e−20) is 1e−20, and not 0.
double log_of_sum(std::span<const Formula> terms, Precision precision) {
  std::vector<double> numbers;
  for (const Formula& term : terms)
    numbers.push_back(term.evaluate(precision));
  const auto largest = std::ranges::max_element(numbers);
  const double most = *largest;
  *largest = 0.0;
  double others = 0.0;
  for (const double number : numbers)
    others = rounded(others + number, precision);
  if (most > 0.0 && std::isfinite(most)) return std::log(most) + std::log1p(others / most);
  return std::log(most + others);
}

}  // namespace

double Formula::evaluate(Precision precision) const {
  return rounded(evaluate_here(node_->is_once ? Precision::double_ : precision), precision);
}

double Formula::evaluate_here(Precision precision) const {
  const auto part = [&](size_t i) { return node_->parts[i].evaluate(precision); };
  switch (node_->kind) {
    case Kind::number:
      return node_->number;
    case Kind::cell:
      return node_->cell.number;
    case Kind::sum: {
      double total = 0.0;
      for (const Formula& term : node_->parts)
        total = rounded(total + term.evaluate(precision), precision);
      return total;
    }
    case Kind::difference:
      if (is_power_less_1(*this)) return std::expm1(node_->parts[0].parts()[0].evaluate(precision));
      return part(0) - part(1);
    case Kind::product:
      return part(0) * part(1);
    case Kind::quotient:
      return part(0) / part(1);
    case Kind::negation:
      return -part(0);
    case Kind::power: {
      const double base = part(0);
      const double exponent = part(1);
      return exponent == 2.0 ? base * base : std::pow(base, exponent);
    }
    case Kind::function: {
      if (is_log_of_sum(*this)) return log_of_sum(node_->parts[0].parts(), precision);
      std::vector<double> arguments;
      for (const Formula& each : node_->parts)
        arguments.push_back(each.evaluate(precision));
      return node_->function(arguments);
    }
    case Kind::choice:
      return part(node_->condition->holds(precision) ? 0 : 1);
    case Kind::pick: {
      const Formula* const found = picked();
      return found == nullptr ? std::numeric_limits<double>::quiet_NaN()
                              : found->evaluate(precision);
    }
    case Kind::shorthand:
      return precision == Precision::double_ ? node_->in_double : node_->in_single;
  }
  return 0.0;
}

std::optional<Formula> Formula::first_not_finite(Precision precision) const {
  const auto search = [&](std::span<const Formula> parts) -> std::optional<Formula> {
    for (const Formula& part : parts) {
      if (std::optional<Formula> found = part.first_not_finite(precision)) return found;
    }
    return std::nullopt;
  };
  if (kind() == Kind::shorthand && std::isfinite(evaluate(precision))) return std::nullopt;
  if (kind() == Kind::choice) {
    const std::span<const Formula> taken =
        parts().subspan(node_->condition->holds(precision) ? 0 : 1, 1);
    return search(taken);
  }
  if (kind() == Kind::pick && picked() != nullptr) return picked()->first_not_finite(precision);
  if (std::optional<Formula> found = search(parts())) return found;
  if (std::isfinite(evaluate(precision))) return std::nullopt;
  return kind() == Kind::shorthand ? parts()[0] : *this;
}

std::vector<Formula> Formula::shorthand_parts() const {
  std::vector<Formula> found;
  const auto search = [this, &found](const Formula& formula, const auto& deeper) -> void {
    const bool is_worked_once = formula.kind() == Kind::shorthand && formula.node_->is_once;
    if (is_worked_once && formula.node_ != node_) return;
    for (const Formula& part : formula.parts())
      deeper(part, deeper);
    if (formula.kind() == Kind::choice) {
      deeper(*formula.condition().left, deeper);
      deeper(*formula.condition().right, deeper);
    }
    if (formula.kind() == Kind::pick) deeper(formula.which(), deeper);
    const bool is_new =
        formula.kind() == Kind::shorthand &&
        std::ranges::find(found, formula.function_name(), &Formula::function_name) == found.end();
    if (is_new) found.push_back(formula);
  };
  search(*this, search);
  return found;
}

}  // namespace lattice
