#include "show/blanks.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <cstdint>
#include <iterator>
#include <map>
#include <optional>
#include <set>
#include <string>
#include <utility>

#include "lattice/judging/loss.hpp"
#include "lattice/network/given_lines.hpp"
#include "lattice/text/error.hpp"
#include "lattice/text/numbers.hpp"
#include "worksheet/formula_functions.hpp"

namespace lattice {
namespace {

using Spot = WorkTables::Spot;

/// Whether students can be asked for the numbers of a table: they are calculated, from lines with
/// names, and are about learning and not about scaling.
bool is_asked_about(const WorkTables& tables, std::size_t at) {
  const WorkTable& table = tables[at];
  if (!tables.is_calculated(at) || table.kind == WorkTable::Kind::worked_out) return false;
  const Line line = tables.work().sheet().line(table.line);
  return line.has_name() && line.section() != scaling_section;
}

/// By how much a number that is shown may be off, as its last digit is rounded.
double rounded_off(double number) {
  if (number == 0.0) return 0.0;
  const double first_digit = std::floor(std::log10(std::abs(number)));
  return 0.5 * std::pow(10.0, first_digit - (usual_digits - 1));
}

/// By how much an update changes a number of a table of new weights; nothing for other tables.
std::optional<double> change_at(const WorkTables& tables, const Spot& spot) {
  const WorkTable& table = tables[spot.table];
  if (table.kind != WorkTable::Kind::after) return std::nullopt;
  const std::optional<std::size_t> before = tables.find(WorkTable::Kind::value, table.line);
  if (!before) return std::nullopt;
  return std::abs(table.numbers.at_offset(spot.offset) -
                  tables[*before].numbers.at_offset(spot.offset));
}

double largest_of(const Tensor& numbers) {
  double largest = 0.0;
  for (const double number : numbers.numbers())
    largest = std::max(largest, std::abs(number));
  return largest;
}

/// How far off an answer may be. A new weight is judged by how far it has moved: neither the weight
/// as it was nor a step the other way is right.
/// @param largest number of the table
double tolerance_at(const WorkTables& tables, const Spot& spot, double tolerance, double largest) {
  const double number = tables[spot.table].numbers.at_offset(spot.offset);
  if (const std::optional<double> change = change_at(tables, spot)) {
    constexpr double less_than_half = 0.4;
    const double least = rounded_off(number);
    return *change == 0.0
               ? least
               : std::min(std::max(tolerance * *change, least), less_than_half * *change);
  }
  return tolerance * std::max(std::abs(number), largest / 1000.0);
}

/// Whether a number tells who can work it from who cannot: 0 would not do, and a change shows in
/// the digits there are.
bool tells_something(const WorkTables& tables, const Spot& spot, double tolerance, double largest) {
  const double number = tables[spot.table].numbers.at_offset(spot.offset);
  if (!std::isfinite(number)) return false;
  const std::optional<double> change = change_at(tables, spot);
  if (change && *change < 4.0 * rounded_off(number)) return false;
  return std::abs(number) > tolerance_at(tables, spot, tolerance, largest);
}

/// A number as it is shown.
double shown(double number) {
  if (number == 0.0 || !std::isfinite(number)) return number;
  const double unit = 2.0 * rounded_off(number);
  return std::round(number / unit) * unit;
}

/// The most terms that are added up, in any part of a formula.
std::size_t longest_sum(const Formula& formula) {
  const bool adds_up =
      formula.kind() == Formula::Kind::sum ||
      (formula.kind() == Formula::Kind::function && formula.function_name() == "mean");
  std::size_t longest = adds_up ? formula.parts().size() : 0;
  for (const Formula& part : formula.parts())
    longest = std::max(longest, longest_sum(part));
  return longest;
}

/// The same formula with the numbers of its cells as they are shown.
Formula with_shown_numbers(const Formula& formula) {
  using Kind = Formula::Kind;
  const auto inner = [&](const Formula& part) { return with_shown_numbers(part); };
  const std::span<const Formula> parts = formula.parts();
  switch (formula.kind()) {
    case Kind::number:
      return formula;
    case Kind::cell:
      return shown(formula.cell().number);
    case Kind::sum: {
      std::vector<Formula> terms;
      std::ranges::transform(parts, std::back_inserter(terms), inner);
      return Formula::sum(std::move(terms));
    }
    case Kind::difference:
      return inner(parts[0]) - inner(parts[1]);
    case Kind::product:
      return inner(parts[0]) * inner(parts[1]);
    case Kind::quotient:
      return inner(parts[0]) / inner(parts[1]);
    case Kind::negation:
      return -inner(parts[0]);
    case Kind::power:
      return pow(inner(parts[0]), inner(parts[1]));
    case Kind::function: {
      std::vector<Formula> arguments;
      std::ranges::transform(parts, std::back_inserter(arguments), inner);
      const FormulaFunction* const known = formula_function(formula.function_name());
      // What a program of its own works is taken as it is.
      return known == nullptr ? formula : Formula::function(formula.function_name(), arguments);
    }
    case Kind::choice:
      return inner(parts[formula.condition().holds() ? 0 : 1]);
    case Kind::pick:
      return formula.picked() == nullptr ? formula : inner(*formula.picked());
    case Kind::shorthand:
      return inner(parts[0]);
  }
  return formula;
}

/// Draws numbers to be asked for, one table after the other, so that every kind of arithmetic comes
/// up.
class BlankDrawing {
 public:
  BlankDrawing(const WorkTables& tables, const Exercise& exercise, bool goes_on)
      : tables_(tables),
        exercise_(exercise),
        goes_on_(goes_on),
        random_(Random(exercise.seed).branch("blanks")) {
    check_places();
    for (std::size_t at = 0; at < tables.all().size(); ++at) {
      largest_.push_back(largest_of(tables[at].numbers));
      if (tables[at].kind != WorkTable::Kind::setting) remember(at);
      if (is_asked_about(tables, at) && is_chosen_from(at)) lists_.push_back(shuffled(at));
    }
    std::ranges::sort(by_size_);
  }

  /// Adds so many blanks, or as many as there are, to those there are.
  void add(std::int64_t count, std::vector<Spot>& chosen) {
    const auto wanted = static_cast<std::size_t>(std::ssize(chosen) + count);
    const Tensor order = random_permutation(std::max<std::int64_t>(std::ssize(lists_), 1), random_);
    for (std::int64_t turn = 0; chosen.size() < wanted && has_more(); ++turn) {
      const auto which = static_cast<std::size_t>(order.at_offset(turn % std::ssize(lists_)));
      std::vector<Spot>& list = lists_[which];
      while (!list.empty()) {
        const Spot spot = list.back();
        list.pop_back();
        const std::vector<Spot> together = to_add(spot, chosen);
        if (together.empty() || chosen.size() + together.size() > wanted) continue;
        chosen.insert(chosen.end(), together.begin(), together.end());
        break;
      }
    }
  }

  /// Adds so many blanks of each table.
  void add_like(const std::map<std::string, std::int64_t>& counts, std::vector<Spot>& chosen) {
    std::map<std::string, std::int64_t> left = counts;
    for (std::vector<Spot>& list : lists_) {
      while (!list.empty() && left[tables_[list.back().table].name] > 0) {
        const Spot spot = list.back();
        list.pop_back();
        const std::vector<Spot> together = to_add(spot, chosen);
        std::map<std::string, std::int64_t> after = left;
        for (const Spot& each : together)
          --after[tables_[each.table].name];
        if (std::ranges::any_of(after, [](const auto& entry) { return entry.second < 0; }))
          continue;
        left = std::move(after);
        chosen.insert(chosen.end(), together.begin(), together.end());
      }
    }
  }

 private:
  using Kind = WorkTable::Kind;

  [[nodiscard]] bool has_more() const {
    return std::ranges::any_of(lists_, [](const auto& list) { return !list.empty(); });
  }

  /// What a table is called by in `Exercise::in`: its stage, its layer and its line.
  [[nodiscard]] std::vector<std::string> places_of(std::size_t at) const {
    const WorkTable& table = tables_[at];
    const Line line = tables_.work().sheet().line(table.line);
    const std::string& section = line.section();
    const std::string stage = table.kind == Kind::gradient ? "reverse"
                              : table.kind == Kind::after  ? "update"
                              : section == loss_section    ? section
                                                           : "forward";
    return {stage, section, line.name()};
  }

  [[nodiscard]] bool is_chosen_from(std::size_t at) const {
    if (exercise_.in.empty()) return true;
    const std::vector<std::string> places = places_of(at);
    return std::ranges::any_of(exercise_.in, [&](const std::string& wanted) {
      return std::ranges::find(places, wanted) != places.end();
    });
  }

  /// @throws SettingError for a place without a number that could be blank.
  void check_places() const {
    std::set<std::string> known;
    for (std::size_t at = 0; at < tables_.all().size(); ++at) {
      if (!is_asked_about(tables_, at)) continue;
      for (std::string& place : places_of(at))
        known.insert(std::move(place));
    }
    known.erase("");
    for (const std::string& place : exercise_.in) {
      if (known.contains(place)) continue;
      throw SettingError(not_among(fmt::format("no number can be left blank in '{}'", place), place,
                                   std::vector<std::string>(known.begin(), known.end())));
    }
  }

  void remember(std::size_t at) {
    const Tensor& numbers = tables_[at].numbers;
    for (std::int64_t offset = 0; offset < numbers.count(); ++offset)
      by_size_.emplace_back(std::abs(numbers.at_offset(offset)), Spot{at, offset});
  }

  [[nodiscard]] std::vector<Spot> shuffled(std::size_t at) {
    std::vector<Spot> spots;
    if (goes_on_ && tables_[at].kind == Kind::after) return spots;
    for (const double place : random_permutation(tables_[at].numbers.count(), random_).numbers())
      spots.push_back({at, static_cast<std::int64_t>(place)});
    return spots;
  }

  /// A number and those that have to be blank with it, as far as they are not blank already; none
  /// where it is, or is no good as a blank.
  [[nodiscard]] std::vector<Spot> to_add(const Spot& spot, const std::vector<Spot>& chosen) const {
    const auto is_chosen = [&](const Spot& each) {
      return std::ranges::find(chosen, each) != chosen.end();
    };
    if (is_chosen(spot)) return {};
    std::vector<Spot> together = with_copies(spot);
    if (together.empty()) return {};
    if (is_left_to_1(spot) && !std::ranges::any_of(beside(spot), is_chosen)) {
      // One more of the row, so that this one is not what the others leave.
      std::vector<Spot> other;
      for (const Spot& each : beside(spot)) {
        if (other.empty()) other = with_copies(each);
      }
      if (other.empty()) return {};
      together.insert(together.end(), other.begin(), other.end());
    }
    std::erase_if(together, is_chosen);
    std::sort(together.begin(), together.end());
    together.erase(std::unique(together.begin(), together.end()), together.end());
    return together;
  }

  /// A number and its copies; none where it is no good as a blank.
  [[nodiscard]] std::vector<Spot> with_copies(const Spot& spot) const {
    constexpr std::size_t most_together = 3;
    if (!can_be_blank(spot)) return {};
    std::vector<Spot> together = {spot};
    for (const Spot& copy : copies_of(spot)) {
      if (!tables_.is_calculated(copy.table) || !can_be_blank(copy)) return {};
      together.push_back(copy);
    }
    if (together.size() > most_together) return {};
    return together;
  }

  /// Whether a number is worth asking for, and can be worked from what is shown.
  [[nodiscard]] bool can_be_blank(const Spot& spot) const {
    constexpr std::size_t most_terms = 6;
    if (!tells_something(tables_, spot, exercise_.tolerance, largest_[spot.table])) return false;
    const Formula made = tables_.made(spot);
    return (exercise_.hard || longest_sum(made) <= most_terms) && is_found(spot, made);
  }

  /// Whether a number is found with the digits that are shown: not where large ones cancel.
  [[nodiscard]] bool is_found(const Spot& spot, const Formula& made) const {
    const double number = tables_[spot.table].numbers.at_offset(spot.offset);
    const double within = tolerance_at(tables_, spot, exercise_.tolerance, largest_[spot.table]);
    return std::abs(with_shown_numbers(made).evaluate() - number) <= within;
  }

  /// Other numbers that are the same, whatever their sign.
  [[nodiscard]] std::vector<Spot> copies_of(const Spot& spot) const {
    constexpr double same = 1e-9;
    const double size = std::abs(tables_[spot.table].numbers.at_offset(spot.offset));
    std::vector<Spot> copies;
    const auto first = std::ranges::lower_bound(by_size_, size * (1.0 - same), {},
                                                &std::pair<double, Spot>::first);
    for (auto at = first; at != by_size_.end() && at->first <= size * (1.0 + same); ++at) {
      if (at->second != spot) copies.push_back(at->second);
    }
    return copies;
  }

  /// The axis along which numbers add up to 1; nothing for other tables.
  [[nodiscard]] std::optional<int> axis_of_1(const Spot& spot) const {
    const WorkTable& table = tables_[spot.table];
    if (table.kind != Kind::value) return std::nullopt;
    return tables_.work().sheet().line(table.line).nature().softmax_along;
  }
  [[nodiscard]] bool is_left_to_1(const Spot& spot) const { return axis_of_1(spot).has_value(); }

  /// The other numbers that add up to 1 with one.
  [[nodiscard]] std::vector<Spot> beside(const Spot& spot) const {
    const Shape& shape = tables_[spot.table].numbers.shape();
    const int axis = axis_of_1(spot).value();
    Index at = shape.index(spot.offset);
    const std::int64_t own = at[axis];
    std::vector<Spot> others;
    for (std::int64_t on = 1; on < shape[axis]; ++on) {
      at[axis] = (own + on) % shape[axis];
      others.push_back({spot.table, shape.offset(at)});
    }
    return others;
  }

  const WorkTables& tables_;
  const Exercise& exercise_;
  bool goes_on_;
  Random random_;
  std::vector<double> largest_;
  std::vector<std::vector<Spot>> lists_;          ///< of tables, each in random order
  std::vector<std::pair<double, Spot>> by_size_;  ///< all numbers
};

std::vector<Spot> named_spots(const WorkTables& tables, const Exercise& exercise) {
  std::vector<Spot> chosen;
  for (const std::string& name : exercise.named) {
    const Spot spot = tables.find(name);
    if (!tables.is_calculated(spot.table)) {
      throw NameError({.what = fmt::format("{} cannot be left blank", name),
                       .expected = "a number that is calculated",
                       .found = "one that is given"});
    }
    if (std::ranges::find(chosen, spot) == chosen.end()) chosen.push_back(spot);
  }
  return chosen;
}

}  // namespace

std::vector<Blank> choose_blanks(const WorkTables& tables, const Exercise& exercise,
                                 std::span<const WorkedStep> steps) {
  if (!(exercise.tolerance > 0.0)) {
    throw SettingError({.what = "the tolerance of an exercise is not above 0",
                        .expected = "a tolerance above 0, such as 0.005",
                        .found = format_number(exercise.tolerance)});
  }
  std::vector<Spot> chosen = named_spots(tables, exercise);
  const auto named = std::ssize(chosen);
  std::int64_t wanted = exercise.blanks;
  if (!exercise.like.empty()) {
    wanted = 0;
    for (const auto& [table, count] : exercise.like)
      wanted += count;
  }
  if (wanted > 0) {
    // The next step begins with the new weights.
    const bool goes_on = steps.size() > 1 && steps[1].step == steps[0].step + 1;
    BlankDrawing drawing(tables, exercise, goes_on);
    if (exercise.like.empty()) {
      drawing.add(wanted, chosen);
    } else {
      drawing.add_like(exercise.like, chosen);
    }
  }
  if (const std::int64_t there_are = std::ssize(chosen) - named; there_are < wanted) {
    const bool is_confined = !exercise.hard || !exercise.in.empty();
    throw SettingError(
        {.what = fmt::format("{} numbers cannot be left blank", wanted),
         .expected = fmt::format("up to {}", there_are),
         .found = fmt::format("{}", wanted),
         .remedy = is_confined ? "fewer, or numbers of more terms as well: --hard" : ""});
  }
  std::sort(chosen.begin(), chosen.end());
  std::vector<Blank> blanks;
  blanks.reserve(chosen.size());
  for (const Spot& spot : chosen)
    blanks.push_back({spot, tolerance_at(tables, spot, exercise.tolerance,
                                         largest_of(tables[spot.table].numbers))});
  return blanks;
}

std::string exercise_id(const std::string& title, const WorkTables& tables,
                        const std::vector<Blank>& blanks) {
  std::string text = title;
  for (const Blank& blank : blanks) {
    text += fmt::format("|{}={}", tables.text(blank.spot),
                        tables[blank.spot.table].numbers.at_offset(blank.spot.offset));
  }
  // FNV-1a, 64 bits (Fowler, Noll and Vo, 1991).
  std::uint64_t hash = 0xcbf29ce484222325U;
  for (const char letter : text)
    hash = (hash ^ static_cast<unsigned char>(letter)) * 0x100000001b3U;
  return fmt::format("{:016x}", hash);
}

AnswerKey answer_key(const WorkedExample& example, const Exercise& exercise) {
  const WorkTables tables(example.steps.front().work, most_written_out);
  const std::vector<Blank> blanks = choose_blanks(tables, exercise, example.steps);
  AnswerKey key{.id = exercise_id(example.title, tables, blanks)};
  for (const Blank& blank : blanks) {
    const WorkTable& table = tables[blank.spot.table];
    key.answers.push_back({.number = tables.text(blank.spot),
                           .table = table.name,
                           .answer = table.numbers.at_offset(blank.spot.offset),
                           .within = blank.within});
  }
  return key;
}

}  // namespace lattice
