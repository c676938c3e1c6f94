#include "worksheet/formula_text.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>
#include <numeric>
#include <optional>
#include <set>
#include <span>
#include <utility>
#include <vector>

#include "worksheet/formula_node.hpp"

namespace lattice {
namespace {

/// The order in which the parts of a list are shown, and which of them are not: from one place in
/// that order to another, not included.
struct Shown {
  std::vector<std::size_t> order;
  std::size_t hidden_from;
  std::size_t hidden_to;
};

/// How large a term is; one that is no number is the largest.
double size_of(const Formula& term) {
  const double size = std::abs(term.evaluate());
  return std::isnan(size) ? std::numeric_limits<double>::infinity() : size;
}

/// Whether a formula has a sum inside.
bool has_sum(const Formula& formula) {
  return formula.kind() == Formula::Kind::sum || std::ranges::any_of(formula.parts(), has_sum);
}

/// Whether the parts of a function add up.
bool adds_up(const Formula& formula) {
  return formula.kind() == Formula::Kind::sum ||
         (formula.kind() == Formula::Kind::function && formula.function_name() == "mean");
}

/// The part that the largest or the smallest of several is; nothing for another formula.
std::optional<std::size_t> winner_of(const Formula& formula) {
  if (formula.kind() != Formula::Kind::function) return std::nullopt;
  const bool is_largest = formula.function_name() == "max";
  if (!is_largest && formula.function_name() != "min") return std::nullopt;
  std::vector<double> numbers;
  for (const Formula& part : formula.parts())
    numbers.push_back(is_largest ? part.evaluate() : -part.evaluate());
  return static_cast<std::size_t>(std::ranges::max_element(numbers) - numbers.begin());
}

/// Of a long list the first parts and the last; where they add up, the largest first, unless they
/// are sums themselves; of a largest or smallest one, that one among the first. A last one of
/// another kind, a bias behind products, stays at the end.
Shown shown_of(const Formula& formula, const Notation& notation) {
  const std::span<const Formula> parts = formula.parts();
  const std::size_t count = parts.size();
  Shown shown{.order = std::vector<std::size_t>(count), .hidden_from = count, .hidden_to = count};
  std::iota(shown.order.begin(), shown.order.end(), std::size_t{0});
  if (count <= notation.longest_sum || count < 4) return shown;
  shown.hidden_from = notation.longest_sum - 2;
  shown.hidden_to = count - 1;
  if (const std::optional<std::size_t> winner = winner_of(formula);
      winner && *winner >= shown.hidden_from && *winner < shown.hidden_to) {
    const auto at = [&](std::size_t place) {
      return shown.order.begin() + static_cast<std::ptrdiff_t>(place);
    };
    std::rotate(at(shown.hidden_from - 1), at(*winner), at(*winner + 1));
  }
  if (!adds_up(formula) || std::ranges::any_of(parts, has_sum)) return shown;
  if (parts.back().kind() == parts.front().kind()) {
    ++shown.hidden_from;
    shown.hidden_to = count;
  }
  std::vector<double> sizes;
  for (const Formula& part : parts)
    sizes.push_back(size_of(part));
  const auto end = shown.order.begin() + static_cast<std::ptrdiff_t>(shown.hidden_to);
  std::stable_sort(shown.order.begin(), end,
                   [&](std::size_t a, std::size_t b) { return sizes[a] > sizes[b]; });
  return shown;
}

}  // namespace

Binding binding_of(Formula::Kind kind) {
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
    case Formula::Kind::pick:
    case Formula::Kind::shorthand:
      return Binding::atom;
  }
  return Binding::atom;
}

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
        return notation_.filled_in ? number_of(formula) : to_string(node.cell);
      case Formula::Kind::sum:
        return list(formula, " + ", [&](const Formula& term, bool leads) {
          return leads && term.kind() == Formula::Kind::difference
                     ? this->text(term)
                     : this->part(term, Binding::product);
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
      case Formula::Kind::pick:
        return formula.picked() == nullptr ? "NaN" : text(*formula.picked());
      case Formula::Kind::shorthand:
        return notation_.filled_in ? number_of(formula) : name_of(formula);
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

  /// The number of a cell or a shorthand, or what stands in its place.
  [[nodiscard]] std::string number_of(const Formula& formula) const {
    const std::optional<std::string> words =
        notation_.write ? notation_.write(formula) : std::nullopt;
    return words.value_or(format_number(formula.evaluate(), notation_.digits));
  }

  /// `formula` as it stands inside something that binds with `around`.
  [[nodiscard]] std::string part(const Formula& formula, Binding around) const {
    if (formula.kind() == Formula::Kind::pick && formula.picked() != nullptr)
      return part(*formula.picked(), around);
    std::string written = text(formula);
    const bool misread = written.starts_with("−") || binding_of(formula.kind()) < around;
    return misread ? "(" + written + ")" : written;
  }

  [[nodiscard]] std::string function(const Formula& formula) const {
    const std::string& name = formula.function_name();
    if (name == "abs") return "|" + text(formula.parts()[0]) + "|";
    return fmt::format("{}({})", name, list(formula, ", ", [this](const Formula& each, bool) {
                         return text(each);
                       }));
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

  /// The parts of a formula side by side; of a long list some, with a word on the others. Their
  /// subtotal is told where they add up.
  template <class Write>
  [[nodiscard]] std::string list(const Formula& formula, std::string_view between,
                                 Write write) const {
    const std::span<const Formula> parts = formula.parts();
    const Shown shown = shown_of(formula, notation_);
    std::string text;
    for (std::size_t at = 0; at < parts.size(); ++at) {
      if (at > shown.hidden_from && at < shown.hidden_to) continue;
      text += at == 0 ? "" : between;
      text += at == shown.hidden_from ? left_out(formula, shown)
                                      : write(parts[shown.order[at]], at == 0);
    }
    return text;
  }

  [[nodiscard]] std::string left_out(const Formula& formula, const Shown& shown) const {
    const std::size_t count = shown.hidden_to - shown.hidden_from;
    if (!notation_.filled_in || !adds_up(formula)) return fmt::format("[{} more]", count);
    double total = 0.0;
    for (std::size_t at = shown.hidden_from; at < shown.hidden_to; ++at)
      total += formula.parts()[shown.order[at]].evaluate();
    return fmt::format("[{} more: {}]", count, format_number(total, notation_.digits));
  }

  Notation notation_;
  std::vector<Known> known_;
};

std::string Formula::text(const Notation& notation) const {
  return FormulaWriter(*this, notation).text(*this);
}

std::vector<Formula::Definition> Formula::shorthands(const Notation& notation) const {
  return FormulaWriter(*this, notation).definitions();
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
  if (kind() == Kind::pick) {
    if (picked() != nullptr) picked()->each_shown(notation, visit);
    return;
  }
  const bool can_be_shortened = kind() == Kind::sum || kind() == Kind::function;
  if (!can_be_shortened) {
    for (const Formula& part : parts())
      part.each_shown(notation, visit);
    return;
  }
  const Shown shown = shown_of(*this, notation);
  for (std::size_t at = 0; at < parts().size(); ++at) {
    if (at < shown.hidden_from || at >= shown.hidden_to)
      parts()[shown.order[at]].each_shown(notation, visit);
  }
}

}  // namespace lattice
