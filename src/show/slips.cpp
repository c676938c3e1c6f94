#include "show/slips.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <optional>

namespace lattice {
namespace {

using Kind = WorkTable::Kind;
using Spot = WorkTables::Spot;

/// The rows that the loss is a mean over, where a number is the loss or a gradient of it; else 1.
std::int64_t rows_behind(const WorkTables& tables, const WorkTable& table) {
  const WorkedSheet& work = tables.work();
  const bool is_of_loss = table.kind == Kind::gradient ||
                          (table.kind == Kind::value && table.line == work.result().number());
  return is_of_loss ? std::max<std::int64_t>(std::ssize(work.batch().rows), 1) : 1;
}

/// Where a number of a matrix stands when rows and columns are exchanged; nothing where that is
/// outside, or the same place.
std::optional<Spot> transposed(const WorkTables& tables, const Spot& spot) {
  const Shape& shape = tables[spot.table].numbers.shape();
  if (shape.rank() != 2) return std::nullopt;
  const Index at = shape.index(spot.offset);
  if (at[0] == at[1] || at[1] >= shape[0] || at[0] >= shape[1]) return std::nullopt;
  Index exchanged = at;
  std::swap(exchanged[0], exchanged[1]);
  return Spot{spot.table, shape.offset(exchanged)};
}

bool is_about(double answer, double number, double within) {
  constexpr double rounding = 1e-9;
  return std::abs(answer - number) <= std::max(within, rounding * std::abs(number));
}

}  // namespace

std::vector<Slip> slips_at(const WorkTables& tables, const Blank& blank) {
  const Spot& spot = blank.spot;
  const WorkTable& table = tables[spot.table];
  const double number = table.numbers.at_offset(spot.offset);
  std::vector<Slip> slips;
  const auto add = [&](double other, std::string sentence) {
    // What is right by itself is no slip, and neither is the same number a second time.
    if (!std::isfinite(other) || is_about(other, number, blank.within)) return;
    slips.push_back({other, std::move(sentence)});
  };
  if (table.kind == Kind::after) {
    const std::size_t weight = tables.find(Kind::value, table.line).value();
    const double before = tables[weight].numbers.at_offset(spot.offset);
    add(before, "That is the weight before the update.");
    add(2.0 * before - number, "The step goes the other way: a weight moves against its gradient.");
  }
  add(-number, "The sign is wrong.");
  if (const std::int64_t rows = rows_behind(tables, table); rows > 1) {
    const auto count = static_cast<double>(rows);
    add(number * count,
        fmt::format("It is {0} times too large: the mean over the rows divides by {0}.", rows));
    add(number / count,
        fmt::format("It is {0} times too small: is it divided by {0} twice?", rows));
  }
  add(2.0 * number, "It is twice as large as it should be.");
  add(number / 2.0, "It is half of what it should be.");
  if (const std::optional<Spot> other = transposed(tables, spot)) {
    add(table.numbers.at_offset(other->offset),
        fmt::format("That is {}: rows and columns are exchanged.", tables.text(*other)));
  }
  const Formula made = tables.made(spot);
  if (made.kind() == Formula::Kind::sum) {
    for (const Formula& term : made.parts())
      add(number - term.evaluate(), "One term of the sum is missing.");
  }
  return slips;
}

std::string diagnosis(const WorkTables& tables, const Blank& blank, double answer,
                      const std::vector<Spot>& open) {
  for (const Slip& slip : slips_at(tables, blank)) {
    if (is_about(answer, slip.number, blank.within)) return slip.sentence;
  }
  const Tensor& numbers = tables[blank.spot.table].numbers;
  for (std::int64_t offset = 0; offset < numbers.count(); ++offset) {
    const Spot spot = {blank.spot.table, offset};
    if (spot == blank.spot || std::ranges::find(open, spot) != open.end()) continue;
    if (is_about(answer, numbers.at_offset(offset), blank.within)) {
      return fmt::format(fmt::runtime(another_number), fmt::arg("number", tables.text(spot)));
    }
  }
  return "";
}

}  // namespace lattice
