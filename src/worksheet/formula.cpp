#include "lattice/worksheet/formula.hpp"

#include <fmt/format.h>

#include <cmath>
#include <utility>

namespace lattice {

std::string to_string(const Cell& cell) {
  return (cell.kind == Cell::Kind::gradient ? "∂" : "") + cell.name + to_string(cell.at);
}

struct Formula::Node {
  Kind kind = Kind::number;
  double number = 0.0;
  Cell cell = {};
  std::vector<Formula> parts = {};
  double (*function)(double) = nullptr;
  std::string function_name = {};
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
    case Formula::Kind::square:
      return Binding::power;
    case Formula::Kind::number:
    case Formula::Kind::cell:
    case Formula::Kind::function:
      return Binding::atom;
  }
  return Binding::atom;
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
    if (terms.size() <= notation_.longest_sum || terms.size() < 4) return join(terms);
    const size_t shown = notation_.longest_sum - 2;
    double left_out = 0.0;
    const auto hidden = terms.subspan(shown, terms.size() - shown - 1);
    for (const Formula& term : hidden)
      left_out += term.evaluate();
    const std::string middle =
        notation_.filled_in
            ? fmt::format("[{} more: {}]", hidden.size(), format_number(left_out, notation_.digits))
            : fmt::format("[{} more]", hidden.size());
    return fmt::format("{} + {} + {}", join(terms.first(shown)), middle,
                       part(terms.back(), Binding::product));
  }

 private:
  std::string join(std::span<const Formula> terms) const {
    std::string text;
    for (const Formula& term : terms) {
      text += (text.empty() ? "" : " + ") + part(term, Binding::product);
    }
    return text;
  }

  const Notation& notation_;
};

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

Formula Formula::function(double (*function)(double), std::string name, Formula argument) {
  return Formula(std::make_shared<const Node>(Node{.kind = Kind::function,
                                                   .parts = {std::move(argument)},
                                                   .function = function,
                                                   .function_name = std::move(name)}));
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

Formula square(const Formula& a) {
  return Formula::make(Formula::Kind::square, {a});
}

Formula exp(const Formula& x) {
  return Formula::function(std::exp, "exp", x);
}

Formula log(const Formula& x) {
  return Formula::function(std::log, "log", x);
}

Formula tanh(const Formula& x) {
  return Formula::function(std::tanh, "tanh", x);
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

double Formula::evaluate() const {
  const auto part = [&](size_t i) { return node_->parts[i].evaluate(); };
  switch (node_->kind) {
    case Kind::number:
      return node_->number;
    case Kind::cell:
      return node_->cell.number;
    case Kind::sum: {
      double total = 0.0;
      for (const Formula& term : node_->parts)
        total += term.evaluate();
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
    case Kind::square:
      return part(0) * part(0);
    case Kind::function:
      return node_->function(part(0));
  }
  return 0.0;
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
    case Kind::square:
      return part(0, Binding::atom) + "²";
    case Kind::function:
      return node_->function_name + "(" + node_->parts[0].text(notation) + ")";
  }
  return "";
}

}  // namespace lattice
