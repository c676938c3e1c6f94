#include "show/cell_formula.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cstdint>
#include <string_view>
#include <utility>

#include "show/function_names.hpp"

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
  const auto names = function_names();
  const auto known = std::ranges::find(names, function, &FunctionName::name);
  if (known == names.end() || known->in_spreadsheets.empty()) throw NoSuchFunction{};
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
    case Kind::pick:
      return pick(formula);
    case Kind::shorthand:
      if (const auto cell = around_.shorthand(formula)) return *cell;
      return inner(0);
  }
  return "";
}

namespace {

bool is_of_two_cells(const Formula& term) {
  using Kind = Formula::Kind;
  return term.kind() == Kind::product && term.parts().size() == 2 &&
         std::ranges::all_of(term.parts(),
                             [](const Formula& part) { return part.kind() == Kind::cell; });
}

/// A part of a sum that may stand in a cell of its own.
struct Chunk {
  std::string text = {};
  std::vector<std::span<const Formula>> terms = {};

  [[nodiscard]] double evaluate() const {
    double total = 0.0;
    for (const std::span<const Formula> some : terms) {
      for (const Formula& term : some)
        total += term.evaluate();
    }
    return total;
  }
};

/// Terms of a sum that are written together.
struct Together {
  std::pair<std::int64_t, std::int64_t> tables;  ///< that their factors stand in
  std::vector<Formula> terms;
};

}  // namespace

/// Products of the cells of two ranges, each with its counterpart: what a window meets, and its
/// weights; or a row and a column of matrices. A short row times a column is better read as it is
/// calculated.
std::optional<std::string> CellFormulas::sum_of_products(std::span<const Formula> terms) const {
  constexpr std::size_t fewest = 4;
  constexpr std::size_t longest_row = 12;
  if (terms.size() < fewest) return std::nullopt;
  std::array<std::vector<Formula>, 2> factors;
  for (std::vector<Formula>& each : factors)
    each.reserve(terms.size());
  for (const Formula& term : terms) {
    factors[0].push_back(term.parts()[0]);
    factors[1].push_back(term.parts()[1]);
  }
  const std::optional<Range> left = around_.range(factors[0]);
  const std::optional<Range> right = left ? around_.range(factors[1]) : std::nullopt;
  if (!right) return std::nullopt;
  if (left->rows == right->rows && left->columns == right->columns)
    return fmt::format("SUMPRODUCT({},{})", left->text, right->text);
  if (terms.size() <= longest_row || !left->is_line() || !right->is_line()) return std::nullopt;
  const Range& across = left->rows == 1 ? *left : *right;
  const Range& down = left->rows == 1 ? *right : *left;
  return fmt::format("MMULT({},{})", across.text, down.text);
}

std::string CellFormulas::sum(std::span<const Formula> terms) const {
  if (const auto range = around_.range(terms)) return fmt::format("SUM({})", range->text);
  std::vector<Together> groups;
  for (const Formula& term : terms) {
    std::pair<std::int64_t, std::int64_t> tables = {-1, -1};
    if (is_of_two_cells(term)) {
      tables = {around_.table(term.parts()[0].cell()), around_.table(term.parts()[1].cell())};
      const auto found = std::ranges::find(groups, tables, &Together::tables);
      if (found != groups.end()) {
        found->terms.push_back(term);
        continue;
      }
    }
    groups.push_back({tables, {term}});
  }
  std::vector<Chunk> chunks(1);
  std::size_t pieces = 0;
  const auto append = [&](const std::string& piece, std::span<const Formula> of) {
    if (chunks.back().text.size() + piece.size() > longest_sum && !chunks.back().text.empty())
      chunks.emplace_back();
    Chunk& chunk = chunks.back();
    chunk.text += (chunk.text.empty() ? "" : "+") + piece;
    chunk.terms.push_back(of);
    ++pieces;
  };
  for (const Together& group : groups) {
    if (const std::optional<std::string> text = sum_of_products(group.terms)) {
      append(*text, group.terms);
    } else {
      for (const Formula& term : group.terms)
        append(part(term), std::span(&term, 1));
    }
  }
  if (chunks.size() == 1) return pieces == 1 ? chunks[0].text : "(" + chunks[0].text + ")";
  std::vector<std::pair<std::string, double>> apart;
  apart.reserve(chunks.size());
  for (const Chunk& chunk : chunks)
    apart.emplace_back(chunk.text, chunk.evaluate());
  return fmt::format("SUM({})", around_.set_apart(apart));
}

std::string CellFormulas::function(const Formula& formula) const {
  const std::string& name = formula.function_name();
  const std::span<const Formula> parts = formula.parts();
  if (name == "mean") {
    // Of cells that stand apart it is written out: a list of arguments may not be so long.
    if (!around_.range(parts)) return fmt::format("{}/{}", sum(parts), parts.size());
  }
  if (name == "argmax") return place_of("MAX", parts);
  if (name == "argmin") return place_of("MIN", parts);
  return fmt::format("{}({})", spreadsheet_name(name), list(parts));
}

/// The first place of the largest or the smallest, from 0. In a range that is a piece of a row or a
/// column it is looked for; in a box the places are counted row by row; of other cells each is put
/// beside those after it.
std::string CellFormulas::place_of(std::string_view outermost,
                                   std::span<const Formula> parts) const {
  if (const auto range = around_.range(parts)) {
    if (range->is_line()) return fmt::format("(MATCH({0}({1}),{1},0)-1)", outermost, range->text);
    const std::string first = range->text.substr(0, range->text.rfind(':'));
    return fmt::format(
        "({0}-SUMPRODUCT(MAX(({1}={2}({1}))*({0}-{3}*(ROW({1})-ROW({4}))-COLUMN({1})+COLUMN({4})"
        "))))",
        parts.size(), range->text, outermost, range->columns, first);
  }
  const std::string_view sign = outermost == "MAX" ? ">=" : "<=";
  std::string text = fmt::format("{}", parts.size() - 1);
  for (std::size_t at = parts.size() - 1; at-- > 0;) {
    text = fmt::format("IF({}{}{}({}),{},{})", part(parts[at]), sign, outermost,
                       list(parts.subspan(at + 1)), at, text);
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

std::string CellFormulas::pick(const Formula& formula) const {
  const std::string which = part(formula.which());
  const std::span<const Formula> parts = formula.parts();
  if (const auto range = around_.range(parts); range && range->is_line())
    return fmt::format("INDEX({},{}+1)", range->text, which);
  std::string text = part(parts.back());
  for (std::size_t at = parts.size() - 1; at-- > 0;)
    text = fmt::format("IF({}={},{},{})", which, at, part(parts[at]), text);
  return text;
}

std::string CellFormulas::list(std::span<const Formula> parts) const {
  if (const auto range = around_.range(parts)) return range->text;
  std::string text;
  for (const Formula& each : parts)
    text += (text.empty() ? "" : ",") + part(each);
  return text;
}

}  // namespace lattice
