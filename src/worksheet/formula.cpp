#include "lattice/worksheet/formula.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numeric>
#include <utility>

#include "lattice/worksheet/scalar.hpp"

namespace lattice {

std::string to_string(const Cell& cell) {
  return (cell.kind == Cell::Kind::gradient ? "∂" : "") + cell.name + to_string(cell.at);
}

struct Formula::Node {
  Kind kind = Kind::number;
  double number = 0.0;
  Cell cell = {};
  std::vector<Formula> parts = {};
  Function function = nullptr;
  std::string function_name = {};
  std::optional<Condition> condition = std::nullopt;
};

namespace {

/// How tightly a kind of formula binds: a part that binds less tightly than its surroundings is put
/// in parentheses.
enum class Binding { sum, product, sign, power, atom };

Binding binding(Formula::Kind kind) {
  switch (kind) {
    case Formula::Kind::sum:
    case Formula::Kind::difference:
      return Binding::sum;
    case Formula::Kind::product:
    case Formula::Kind::quotient:
      return Binding::product;
    case Formula::Kind::negation:
      return Binding::sign;
    case Formula::Kind::power:
      return Binding::power;
    case Formula::Kind::number:
    case Formula::Kind::cell:
    case Formula::Kind::function:
    case Formula::Kind::choice:
      return Binding::atom;
  }
  return Binding::atom;
}

/// The parts of a long list that are not shown: from the first to the last, not included.
struct Hidden {
  std::size_t from;
  std::size_t to;
};

Hidden hidden_of(std::size_t count, const Notation& notation) {
  if (count <= notation.longest_sum || count < 4) return {count, count};
  return {notation.longest_sum - 2, count - 1};
}

class Writer {
 public:
  explicit Writer(const Notation& notation) : notation_(notation) {}

  /// `formula` as it stands inside something that binds with `around`.
  std::string part(const Formula& formula, Binding around) const {
    const std::string text = formula.text(notation_);
    const bool misread = text.starts_with("−") || binding(formula.kind()) < around;
    return misread ? "(" + text + ")" : text;
  }

  std::string sum(std::span<const Formula> terms) const {
    return list(terms, " + ", [this](const Formula& term) { return part(term, Binding::product); });
  }

  std::string arguments(std::span<const Formula> parts, bool adds_up) const {
    return list(
        parts, ", ", [this](const Formula& each) { return each.text(notation_); }, adds_up);
  }

 private:
  /// Terms side by side; of a long list the first and the last, with a word on what is between. The
  /// subtotal of what is between is told where terms add up.
  template <class Write>
  std::string list(std::span<const Formula> terms, std::string_view between, Write write,
                   bool adds_up = true) const {
    const Hidden hidden = hidden_of(terms.size(), notation_);
    std::string text;
    for (std::size_t at = 0; at < terms.size(); ++at) {
      if (at > hidden.from && at < hidden.to) continue;
      text += at == 0 ? "" : between;
      text += at == hidden.from ? left_out(terms.subspan(at, hidden.to - at), adds_up)
                                : write(terms[at]);
    }
    return text;
  }

  std::string left_out(std::span<const Formula> terms, bool adds_up) const {
    if (!notation_.filled_in || !adds_up) return fmt::format("[{} more]", terms.size());
    double total = 0.0;
    for (const Formula& term : terms)
      total += term.evaluate();
    return fmt::format("[{} more: {}]", terms.size(), format_number(total, notation_.digits));
  }

  const Notation& notation_;
};

double rounded(double number, Precision precision) {
  return precision == Precision::double_ ? number : static_cast<double>(static_cast<float>(number));
}

Formula of_one(std::string name, double (*function)(double), const Formula& x) {
  return Formula::function(std::move(name),
                           [function](std::span<const double> parts) { return function(parts[0]); },
                           {x});
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

Formula Formula::largest(std::vector<Formula> formulas) {
  if (formulas.size() == 1) return formulas.front();
  return function(
      "max",
      [](std::span<const double> numbers) {
        return std::accumulate(numbers.begin(), numbers.end(), numbers[0],
                               [](double a, double b) { return larger(a, b); });
      },
      std::move(formulas));
}

Formula Formula::smallest(Formula a, Formula b) {
  return function("min",
                  [](std::span<const double> numbers) { return smaller(numbers[0], numbers[1]); },
                  {std::move(a), std::move(b)});
}

Formula Formula::mean(std::vector<Formula> formulas) {
  return function(
      "mean",
      [](std::span<const double> numbers) {
        return std::accumulate(numbers.begin(), numbers.end(), 0.0) /
               static_cast<double>(numbers.size());
      },
      std::move(formulas));
}

Formula Formula::choice(Condition condition, Formula when, Formula otherwise) {
  return Formula(std::make_shared<const Node>(Node{.kind = Kind::choice,
                                                   .parts = {std::move(when), std::move(otherwise)},
                                                   .condition = std::move(condition)}));
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

std::string Condition::text(const Notation& notation) const {
  const std::string_view sign = relation == Relation::above      ? ">"
                                : relation == Relation::at_least ? "≥"
                                                                 : "=";
  return fmt::format("{} {} {}", left->text(notation), sign, right->text(notation));
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
  return of_one("√", std::sqrt, x);
}

Formula exp(const Formula& x) {
  return of_one("exp", std::exp, x);
}

Formula log(const Formula& x) {
  return of_one("log", std::log, x);
}

Formula tanh(const Formula& x) {
  return of_one("tanh", std::tanh, x);
}

Formula abs(const Formula& x) {
  return of_one("abs", std::fabs, x);
}

Formula sin(const Formula& x) {
  return of_one("sin", std::sin, x);
}

Formula cos(const Formula& x) {
  return of_one("cos", std::cos, x);
}

Formula atan(const Formula& x) {
  return of_one("atan", std::atan, x);
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

double Formula::evaluate(Precision precision) const {
  return rounded(evaluate_here(precision), precision);
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
      std::vector<double> arguments;
      for (const Formula& each : node_->parts)
        arguments.push_back(each.evaluate(precision));
      return node_->function(arguments);
    }
    case Kind::choice:
      return part(node_->condition->holds(precision) ? 0 : 1);
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
  if (kind() == Kind::choice) {
    const std::span<const Formula> taken =
        parts().subspan(node_->condition->holds(precision) ? 0 : 1, 1);
    return search(taken);
  }
  if (std::optional<Formula> found = search(parts())) return found;
  if (std::isfinite(evaluate(precision))) return std::nullopt;
  return *this;
}

std::string Formula::text(const Notation& notation) const {
  const Writer write(notation);
  const auto part = [&](size_t i, Binding around) { return write.part(node_->parts[i], around); };
  switch (node_->kind) {
    case Kind::number:
      return format_number(node_->number, notation.digits);
    case Kind::cell:
      return notation.filled_in ? format_number(node_->cell.number, notation.digits)
                                : to_string(node_->cell);
    case Kind::sum:
      return write.sum(node_->parts);
    case Kind::difference:
      return part(0, Binding::sum) + " − " + part(1, Binding::product);
    case Kind::product:
      return part(0, Binding::product) + notation.times + part(1, Binding::sign);
    case Kind::quotient:
      return part(0, Binding::product) + "/" + part(1, Binding::sign);
    case Kind::negation:
      return "−" + part(0, Binding::power);
    case Kind::power: {
      const Formula& exponent = node_->parts[1];
      const bool squared = exponent.kind() == Kind::number && exponent.evaluate() == 2.0;
      return part(0, Binding::atom) + (squared ? "²" : "^" + part(1, Binding::atom));
    }
    case Kind::function:
      if (node_->function_name == "abs") return "|" + parts()[0].text(notation) + "|";
      return fmt::format("{}({})", node_->function_name,
                         write.arguments(node_->parts, node_->function_name == "mean"));
    case Kind::choice:
      return fmt::format("({} if {} else {})", node_->parts[0].text(notation),
                         node_->condition->text(notation), node_->parts[1].text(notation));
  }
  return "";
}

std::vector<Cell> Formula::cells(const Notation& notation) const {
  std::vector<Cell> cells;
  collect(notation, cells);
  return cells;
}

void Formula::collect(const Notation& notation, std::vector<Cell>& cells) const {
  if (kind() == Kind::cell) {
    const bool is_there = std::ranges::any_of(cells, [&](const Cell& other) {
      return other.kind == cell().kind && other.name == cell().name && other.at == cell().at;
    });
    if (!is_there) cells.push_back(cell());
  }
  if (node_->condition) {
    node_->condition->left->collect(notation, cells);
    node_->condition->right->collect(notation, cells);
  }
  const bool can_be_shortened = kind() == Kind::sum || kind() == Kind::function;
  const Hidden hidden = can_be_shortened ? hidden_of(parts().size(), notation)
                                         : Hidden{parts().size(), parts().size()};
  for (std::size_t at = 0; at < parts().size(); ++at) {
    if (at < hidden.from || at >= hidden.to) parts()[at].collect(notation, cells);
  }
}

}  // namespace lattice
