#include "lattice/worksheet/formula.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numeric>
#include <set>
#include <utility>

#include "lattice/worksheet/detail/scalar.hpp"

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
  double in_double = 0.0;  ///< what a shorthand gives: many parts may share it, and ask
  double in_single = 0.0;
  bool is_once = false;  ///< worked in double and rounded once
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
    case Formula::Kind::shorthand:
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

}  // namespace

/// Writes formulas in a notation, and gives the short names in them their numbers.
class FormulaWriter {
 public:
  FormulaWriter(const Formula& formula, const Notation& notation) : notation_(notation) {
    Notation in_names = notation;
    in_names.filled_in = false;
    formula.each_shown(in_names, [this](const Formula& each) {
      if (each.kind() == Formula::Kind::shorthand) learn(each);
    });
  }

  [[nodiscard]] std::string text(const Formula& formula) const {
    const std::span<const Formula> parts = formula.parts();
    const auto part = [&](size_t i, Binding around) { return this->part(parts[i], around); };
    const Formula::Node& node = *formula.node_;
    switch (formula.kind()) {
      case Formula::Kind::number:
        return format_number(node.number, notation_.digits);
      case Formula::Kind::cell:
        return notation_.filled_in ? format_number(node.cell.number, notation_.digits)
                                   : to_string(node.cell);
      case Formula::Kind::sum:
        return list(parts, " + ", [&](const Formula& term) {
          const bool leads = &term == &parts.front() && term.kind() == Formula::Kind::difference;
          return leads ? this->text(term) : this->part(term, Binding::product);
        });
      case Formula::Kind::difference:
        return part(0, Binding::sum) + " − " + part(1, Binding::product);
      case Formula::Kind::product:
        return part(0, Binding::product) + notation_.times + part(1, Binding::sign);
      case Formula::Kind::quotient:
        return part(0, Binding::product) + "/" + part(1, Binding::sign);
      case Formula::Kind::negation:
        return "−" + part(0, Binding::power);
      case Formula::Kind::power: {
        const bool squared = parts[1].kind() == Formula::Kind::number && parts[1].evaluate() == 2.0;
        return part(0, Binding::atom) + (squared ? "²" : "^" + part(1, Binding::atom));
      }
      case Formula::Kind::function:
        return function(formula);
      case Formula::Kind::choice:
        return fmt::format("({} if {} else {})", text(parts[0]), condition(*node.condition),
                           text(parts[1]));
      case Formula::Kind::shorthand:
        return notation_.filled_in ? format_number(formula.evaluate(), notation_.digits)
                                   : name_of(formula);
    }
    return "";
  }

  [[nodiscard]] std::vector<Formula::Definition> definitions() const {
    std::vector<Formula::Definition> all;
    for (const Known& each : known_)
      all.push_back({numbered(each), text(each.formula.parts()[0]), each.formula.evaluate()});
    return all;
  }

 private:
  /// A short name that was met, and what it stands for.
  struct Known {
    Formula formula;
    std::string meaning;  ///< written out, to tell one from another
    int number;           ///< among those of one name, from 1
  };

  void learn(const Formula& formula) {
    if (find(formula) != nullptr) return;
    int number = 1;
    for (const Known& each : known_) {
      if (each.formula.function_name() == formula.function_name()) ++number;
    }
    known_.push_back({formula, meaning_of(formula), number});
  }

  static std::string meaning_of(const Formula& shorthand) { return shorthand.parts()[0].text(); }

  /// What was learnt of a short name: the same formula, or one that means the same.
  [[nodiscard]] const Known* find(const Formula& formula) const {
    for (const Known& each : known_) {
      if (each.formula.node_ == formula.node_) return &each;
    }
    const std::string meaning = known_.empty() ? "" : meaning_of(formula);
    for (const Known& each : known_) {
      if (each.formula.function_name() == formula.function_name() && each.meaning == meaning)
        return &each;
    }
    return nullptr;
  }

  [[nodiscard]] std::string numbered(const Known& known) const {
    const std::string& name = known.formula.function_name();
    const bool only_one = std::ranges::count_if(known_, [&](const Known& each) {
                            return each.formula.function_name() == name;
                          }) == 1;
    if (only_one) return name;
    std::string text = name;
    for (const char digit : std::to_string(known.number)) {
      text += "\xE2\x82";  // the digits below the line are U+2080 to U+2089
      text += static_cast<char>(static_cast<unsigned char>(0x80 + (digit - '0')));
    }
    return text;
  }

  [[nodiscard]] std::string name_of(const Formula& formula) const {
    const Known* const known = find(formula);
    return known == nullptr ? formula.function_name() : numbered(*known);
  }

  /// `formula` as it stands inside something that binds with `around`.
  [[nodiscard]] std::string part(const Formula& formula, Binding around) const {
    std::string written = text(formula);
    const bool misread = written.starts_with("−") || binding(formula.kind()) < around;
    return misread ? "(" + written + ")" : written;
  }

  [[nodiscard]] std::string function(const Formula& formula) const {
    const std::string& name = formula.function_name();
    if (name == "abs") return "|" + text(formula.parts()[0]) + "|";
    return fmt::format("{}({})", name,
                       list(
                           formula.parts(), ", ",
                           [this](const Formula& each) { return text(each); }, name == "mean"));
  }

  /// A condition; a plain number stands on the right.
  [[nodiscard]] std::string condition(const Condition& condition) const {
    using Relation = Condition::Relation;
    const bool turned = condition.left->kind() == Formula::Kind::number &&
                        condition.right->kind() != Formula::Kind::number;
    const std::string_view sign = condition.relation == Relation::equal   ? "="
                                  : condition.relation == Relation::above ? turned ? "<" : ">"
                                  : turned                                ? "≤"
                                                                          : "≥";
    const Formula& left = turned ? *condition.right : *condition.left;
    const Formula& right = turned ? *condition.left : *condition.right;
    return fmt::format("{} {} {}", text(left), sign, text(right));
  }

  /// Terms side by side; of a long list the first and the last, with a word on what is between. The
  /// subtotal of what is between is told where terms add up.
  template <class Write>
  [[nodiscard]] std::string list(std::span<const Formula> terms, std::string_view between,
                                 Write write, bool adds_up = true) const {
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

  [[nodiscard]] std::string left_out(std::span<const Formula> terms, bool adds_up) const {
    if (!notation_.filled_in || !adds_up) return fmt::format("[{} more]", terms.size());
    double total = 0.0;
    for (const Formula& term : terms)
      total += term.evaluate();
    return fmt::format("[{} more: {}]", terms.size(), format_number(total, notation_.digits));
  }

  Notation notation_;
  std::vector<Known> known_;
};

namespace {

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

namespace {

/// One of several formulas, found two by two; NaN where one of them is.
template <class Choose>
Formula one_of(const char* name, std::vector<Formula> formulas, Choose choose) {
  if (formulas.size() == 1) return formulas.front();
  return Formula::function(
      name,
      [choose](std::span<const double> numbers) {
        return std::accumulate(numbers.begin(), numbers.end(), numbers[0], [&](double a, double b) {
          return std::isnan(b) ? b : choose(a, b);
        });
      },
      std::move(formulas));
}

}  // namespace

Formula Formula::largest(std::vector<Formula> formulas) {
  return one_of("max", std::move(formulas), [](double a, double b) { return larger(a, b); });
}

Formula Formula::smallest(std::vector<Formula> formulas) {
  return one_of("min", std::move(formulas), [](double a, double b) { return smaller(a, b); });
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

const Condition& Formula::condition() const {
  return *node_->condition;
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
  if (std::optional<Formula> found = search(parts())) return found;
  if (std::isfinite(evaluate(precision))) return std::nullopt;
  return kind() == Kind::shorthand ? parts()[0] : *this;
}

std::string Formula::text(const Notation& notation) const {
  return FormulaWriter(*this, notation).text(*this);
}

std::vector<Formula::Definition> Formula::shorthands(const Notation& notation) const {
  return FormulaWriter(*this, notation).definitions();
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
    const bool is_new =
        formula.kind() == Kind::shorthand &&
        std::ranges::find(found, formula.function_name(), &Formula::function_name) == found.end();
    if (is_new) found.push_back(formula);
  };
  search(*this, search);
  return found;
}

std::vector<Cell> Formula::cells(const Notation& notation) const {
  std::vector<Cell> cells;
  std::set<std::pair<Cell::Kind, std::string>> known;
  each_shown(notation, [&](const Formula& each) {
    if (each.kind() != Kind::cell) return;
    const Cell& cell = each.cell();
    if (known.emplace(cell.kind, to_string(cell)).second) cells.push_back(cell);
  });
  return cells;
}

/// Calls `visit` for every part that a text shows, from the whole to its parts.
template <class Visit>
void Formula::each_shown(const Notation& notation, const Visit& visit) const {
  visit(*this);
  if (node_->condition) {
    node_->condition->left->each_shown(notation, visit);
    node_->condition->right->each_shown(notation, visit);
  }
  const bool can_be_shortened = kind() == Kind::sum || kind() == Kind::function;
  const Hidden hidden = can_be_shortened ? hidden_of(parts().size(), notation)
                                         : Hidden{parts().size(), parts().size()};
  for (std::size_t at = 0; at < parts().size(); ++at) {
    if (at < hidden.from || at >= hidden.to) parts()[at].each_shown(notation, visit);
  }
}

}  // namespace lattice
