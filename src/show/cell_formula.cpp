#include "show/cell_formula.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <string_view>
#include <utility>

#include "worksheet/formula_functions.hpp"

namespace lattice {
namespace {

/// A sum whose text is longer than this is spread over cells of its own; a cell takes 8192 letters.
constexpr std::size_t longest_sum = 2000;

/// Thrown when a formula has a function that spreadsheets lack.
struct NoSuchFunction {};

std::string number_text(double number) {
  return number < 0.0 ? fmt::format("({})", number) : fmt::format("{}", number);
}

std::string_view spreadsheet_name(std::string_view function) {
  const FormulaFunction* const known = formula_function(function);
  if (known == nullptr || known->in_spreadsheets.empty()) throw NoSuchFunction{};
  return known->in_spreadsheets;
}

}  // namespace

std::optional<std::string> CellFormulas::text(const Formula& formula) const {
  try {
    return part(formula);
  } catch (const NoSuchFunction&) {
    return std::nullopt;
  }
}

// Every part that could be misread is in parentheses: spreadsheets take −a² for (−a)².
std::string CellFormulas::part(const Formula& formula) const {
  using Kind = Formula::Kind;
  const auto inner = [&](std::size_t at) { return part(formula.parts()[at]); };
  switch (formula.kind()) {
    case Kind::number:
      return number_text(formula.evaluate());
    case Kind::cell:
      return around_.reference(formula.cell());
    case Kind::sum:
      return sum(formula.parts());
    case Kind::difference:
      return fmt::format("({}-{})", inner(0), inner(1));
    case Kind::product:
      return fmt::format("{}*{}", inner(0), inner(1));
    case Kind::quotient:
      return fmt::format("{}/({})", inner(0), inner(1));
    case Kind::negation:
      return fmt::format("(-({}))", inner(0));
    case Kind::power:
      return fmt::format("POWER({},{})", inner(0), inner(1));
    case Kind::function:
      return function(formula);
    case Kind::choice:
      return choice(formula);
    case Kind::shorthand:
      if (const auto cell = around_.shorthand(formula)) return *cell;
      return inner(0);
  }
  return "";
}

std::string CellFormulas::sum(std::span<const Formula> terms) const {
  if (const auto range = around_.range(terms)) return fmt::format("SUM({})", *range);
  std::vector<std::pair<std::string, double>> chunks;
  std::string text;
  double total = 0.0;
  for (const Formula& term : terms) {
    const std::string next = part(term);
    if (text.size() + next.size() > longest_sum && !text.empty()) {
      chunks.emplace_back(std::exchange(text, ""), std::exchange(total, 0.0));
    }
    text += (text.empty() ? "" : "+") + next;
    total += term.evaluate();
  }
  if (chunks.empty()) return "(" + text + ")";
  chunks.emplace_back(text, total);
  return fmt::format("SUM({})", around_.set_apart(chunks));
}

std::string CellFormulas::function(const Formula& formula) const {
  const std::string& name = formula.function_name();
  const std::span<const Formula> parts = formula.parts();
  if (name == "mean") {
    // Of cells that stand apart it is written out: a list of arguments may not be so long.
    if (!around_.range(parts)) return fmt::format("{}/{}", sum(parts), parts.size());
  }
  if (name == "argmax") return place_of_largest(parts);
  return fmt::format("{}({})", spreadsheet_name(name), list(parts));
}

namespace {

/// Whether a range such as `'forward'!C3:F3` is a piece of one row or of one column.
bool is_line(std::string_view range) {
  const std::size_t colon = range.rfind(':');
  if (colon == std::string_view::npos) return true;
  const std::string_view last = range.substr(colon + 1);
  std::string_view first = range.substr(0, colon);
  const std::size_t sheet = first.rfind('!');
  if (sheet != std::string_view::npos) first.remove_prefix(sheet + 1);
  constexpr std::string_view digits = "0123456789";
  const auto column = [&](std::string_view cell) {
    return cell.substr(0, cell.find_first_of(digits));
  };
  const auto row = [&](std::string_view cell) {
    return cell.substr(std::min(cell.find_first_of(digits), cell.size()));
  };
  return column(first) == column(last) || row(first) == row(last);
}

}  // namespace

/// The first place of the largest, from 0: looked for in a piece of a row or a column; of other
/// cells each is put beside those after it.
std::string CellFormulas::place_of_largest(std::span<const Formula> parts) const {
  if (const auto range = around_.range(parts); range && is_line(*range))
    return fmt::format("(MATCH(MAX({0}),{0},0)-1)", *range);
  std::string text = fmt::format("{}", parts.size() - 1);
  for (std::size_t at = parts.size() - 1; at-- > 0;) {
    text = fmt::format("IF({}>=MAX({}),{},{})", part(parts[at]), list(parts.subspan(at + 1)), at,
                       text);
  }
  return text;
}

std::string CellFormulas::choice(const Formula& formula) const {
  using Relation = Condition::Relation;
  const Condition& condition = formula.condition();
  const std::string_view sign = condition.relation == Relation::above      ? ">"
                                : condition.relation == Relation::at_least ? ">="
                                                                           : "=";
  return fmt::format("IF({}{}{},{},{})", part(*condition.left), sign, part(*condition.right),
                     part(formula.parts()[0]), part(formula.parts()[1]));
}

std::string CellFormulas::list(std::span<const Formula> parts) const {
  if (const auto range = around_.range(parts)) return *range;
  std::string text;
  for (const Formula& each : parts)
    text += (text.empty() ? "" : ",") + part(each);
  return text;
}

}  // namespace lattice
