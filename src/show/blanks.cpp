#include "show/blanks.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numeric>
#include <optional>

#include "lattice/network/given_lines.hpp"
#include "lattice/text/error.hpp"
#include "lattice/text/numbers.hpp"

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

/// Numbers to be asked for, table by table, each list in random order.
std::vector<std::vector<Spot>> shuffled_spots(const WorkTables& tables, double tolerance,
                                              Random& random) {
  std::vector<std::vector<Spot>> lists;
  for (std::size_t at = 0; at < tables.all().size(); ++at) {
    if (!is_asked_about(tables, at)) continue;
    std::vector<Spot> spots;
    const double largest = largest_of(tables[at].numbers);
    for (const double place : random_permutation(tables[at].numbers.count(), random).numbers()) {
      const auto offset = static_cast<std::int64_t>(place);
      if (tells_something(tables, {at, offset}, tolerance, largest)) spots.push_back({at, offset});
    }
    lists.push_back(std::move(spots));
  }
  return lists;
}

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

std::vector<Blank> choose_blanks(const WorkTables& tables, const Exercise& exercise) {
  if (!(exercise.tolerance > 0.0)) {
    throw SettingError({.what = "the tolerance of an exercise is not above 0",
                        .expected = "a tolerance above 0, such as 0.005",
                        .found = format_number(exercise.tolerance)});
  }
  std::vector<Spot> chosen = named_spots(tables, exercise);
  Random random = Random(exercise.seed).branch("blanks");
  std::vector<std::vector<Spot>> lists = shuffled_spots(tables, exercise.tolerance, random);
  const auto there_are =
      std::transform_reduce(lists.begin(), lists.end(), std::int64_t{0}, std::plus<>(),
                            [](const std::vector<Spot>& list) { return std::ssize(list); });
  if (exercise.blanks > there_are) {
    throw SettingError({.what = fmt::format("{} numbers cannot be left blank", exercise.blanks),
                        .expected = fmt::format("up to {}", there_are),
                        .found = fmt::format("{}", exercise.blanks)});
  }
  // One from each table in turn, so that every kind of arithmetic comes up.
  const auto wanted = static_cast<std::size_t>(std::ssize(chosen) + exercise.blanks);
  const Tensor order = random_permutation(std::max<std::int64_t>(std::ssize(lists), 1), random);
  for (std::int64_t turn = 0; chosen.size() < wanted; ++turn) {
    const auto which = static_cast<std::size_t>(order.at_offset(turn % std::ssize(lists)));
    if (lists[which].empty()) {
      const bool all_used = std::ranges::all_of(lists, &std::vector<Spot>::empty);
      if (all_used) break;
      continue;
    }
    const Spot spot = lists[which].back();
    lists[which].pop_back();
    if (std::ranges::find(chosen, spot) == chosen.end()) chosen.push_back(spot);
  }
  std::sort(chosen.begin(), chosen.end());
  std::vector<Blank> blanks;
  blanks.reserve(chosen.size());
  for (const Spot& spot : chosen)
    blanks.push_back({spot, tolerance_at(tables, spot, exercise.tolerance,
                                         largest_of(tables[spot.table].numbers))});
  return blanks;
}

}  // namespace lattice
