#include "lattice/worksheet/patches.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <map>
#include <optional>
#include <tuple>
#include <utility>

namespace lattice {
namespace {

/// A number of a formula, where it lies on a picture.
struct OnPicture {
  Cell cell;
  std::int64_t row = 0;
  std::int64_t column = 0;
  std::string table = {};  ///< which picture of its line
};

/// Nothing for a cell of a line without rows and columns.
std::optional<OnPicture> on_picture(const Formula& formula, const Worksheet& sheet) {
  if (formula.kind() != Formula::Kind::cell || formula.cell().line == 0) return std::nullopt;
  OnPicture number{.cell = formula.cell()};
  const Shape& shape = sheet.line(number.cell.line).shape();
  bool has_row = false;
  bool has_column = false;
  for (int axis = 0; axis < shape.rank(); ++axis) {
    const Role role = shape.role(axis);
    if (role == Role::row) {
      number.row = number.cell.at[axis];
      has_row = true;
    } else if (role == Role::column) {
      number.column = number.cell.at[axis];
      has_column = true;
    } else {
      number.table += fmt::format("{}{} {}", number.table.empty() ? "" : ", ",
                                  role == Role::none ? "number" : word(role), number.cell.at[axis]);
    }
  }
  if (!has_row || !has_column) return std::nullopt;
  return number;
}

using Factors = std::pair<OnPicture, OnPicture>;

/// The factors of a product on pictures.
std::optional<Factors> factors_of(const Formula& term, const Worksheet& sheet) {
  if (term.kind() != Formula::Kind::product || term.parts().size() != 2) return std::nullopt;
  std::optional<OnPicture> first = on_picture(term.parts()[0], sheet);
  std::optional<OnPicture> second = on_picture(term.parts()[1], sheet);
  if (!first || !second) return std::nullopt;
  return Factors(*first, *second);
}

std::string name_of(const Cell& cell) {
  return (cell.kind == Cell::Kind::gradient ? "∂" : "") + cell.name;
}

Patch patch_of(const std::vector<Factors>& products) {
  std::map<std::int64_t, std::int64_t> rows;
  std::map<std::int64_t, std::int64_t> columns;
  for (const auto& [met, by] : products) {
    rows[met.row] = 0;
    columns[met.column] = 0;
  }
  const auto number = [](std::map<std::int64_t, std::int64_t>& places) {
    std::vector<std::int64_t> in_order;
    for (auto& [position, place] : places) {
      place = std::ssize(in_order);
      in_order.push_back(position);
    }
    return in_order;
  };
  const auto& [first_met, first_by] = products.front();
  Patch patch{.met = name_of(first_met.cell),
              .by = name_of(first_by.cell),
              .of_met = first_met.table,
              .of_by = first_by.table,
              .rows = number(rows),
              .columns = number(columns)};
  const Shape shape =
      Shape{std::ssize(patch.rows), std::ssize(patch.columns)}.with({Role::row, Role::column});
  patch.numbers = zeros(shape);
  patch.factors = zeros(shape);
  for (const auto& [met, by] : products) {
    const Index at{rows[met.row], columns[met.column]};
    patch.numbers.set(at, met.cell.number);
    patch.factors.set(at, by.cell.number);
    patch.sum += met.cell.number * by.cell.number;
    patch.is_turned = patch.is_turned || (met.row > first_met.row && by.row < first_by.row) ||
                      (met.column > first_met.column && by.column < first_by.column);
  }
  return patch;
}

}  // namespace

std::vector<Patch> patches_of(const Formula& formula, const Worksheet& sheet) {
  if (formula.kind() != Formula::Kind::sum) return {};
  using Tables = std::tuple<std::string, std::string, std::string, std::string>;
  std::vector<Tables> order;
  std::map<Tables, std::vector<Factors>> by_table;
  for (const Formula& term : formula.parts()) {
    const std::optional<Factors> factors = factors_of(term, sheet);
    if (!factors) continue;
    const Tables tables = {name_of(factors->first.cell), factors->first.table,
                           name_of(factors->second.cell), factors->second.table};
    if (!by_table.contains(tables)) order.push_back(tables);
    by_table[tables].push_back(*factors);
  }
  std::vector<Patch> patches(order.size());
  std::ranges::transform(order, patches.begin(),
                         [&](const Tables& tables) { return patch_of(by_table[tables]); });
  return patches;
}

}  // namespace lattice
