#include "show/blanks.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numeric>

#include "lattice/text/error.hpp"

namespace lattice {
namespace {

using Spot = WorkTables::Spot;

/// Whether students can be asked for the numbers of a table: they are calculated, from lines with
/// names, and are about learning and not about scaling.
bool is_asked_about(const WorkTables& tables, std::size_t at) {
  const WorkTable& table = tables[at];
  if (!tables.is_calculated(at) || table.kind == WorkTable::Kind::worked_out) return false;
  const Line line = tables.work().sheet().line(table.line);
  return line.has_name() && line.section() != "scaling";
}

/// Numbers to be asked for, table by table, each list in random order.
std::vector<std::vector<Spot>> shuffled_spots(const WorkTables& tables, Random& random) {
  std::vector<std::vector<Spot>> lists;
  for (std::size_t at = 0; at < tables.all().size(); ++at) {
    if (!is_asked_about(tables, at)) continue;
    std::vector<Spot> spots;
    for (const double place : random_permutation(tables[at].numbers.count(), random).numbers()) {
      const auto offset = static_cast<std::int64_t>(place);
      const double number = tables[at].numbers.at_offset(offset);
      if (number != 0.0 && std::isfinite(number)) spots.push_back({at, offset});
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
    throw SettingError({.what = "an answer has to be allowed to be off a little",
                        .expected = "a tolerance above 0, such as 0.005",
                        .found = format_number(exercise.tolerance)});
  }
  std::vector<Spot> chosen = named_spots(tables, exercise);
  Random random = Random(exercise.seed).branch("blanks");
  std::vector<std::vector<Spot>> lists = shuffled_spots(tables, random);
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
  for (const Spot& spot : chosen) {
    const Tensor& numbers = tables[spot.table].numbers;
    double largest = 0.0;
    for (const double number : numbers.numbers())
      largest = std::max(largest, std::abs(number));
    const double size = std::max(std::abs(numbers.at_offset(spot.offset)), largest / 1000.0);
    blanks.push_back({spot, exercise.tolerance * size});
  }
  return blanks;
}

}  // namespace lattice
