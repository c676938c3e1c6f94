#include "lattice/show/plan.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <vector>

#include "lattice/data/picture.hpp"
#include "show/text_table.hpp"

namespace lattice {

namespace {

/// `5×8`: what the axes of a weight stand for is told by what comes in and goes out.
std::string extents(const Shape& shape) {
  std::string text;
  for (int axis = 0; axis < shape.rank(); ++axis)
    text += fmt::format("{}{}", axis == 0 ? "" : "×", shape[axis]);
  return text;
}

/// `28×28, 8 channels` of a picture, else the shape with its roles.
std::string gives(const Shape& shape) {
  if (!is_picture(shape)) return to_string(shape);
  return fmt::format("{}×{}, {}", shape[0], shape[1],
                     counted(shape[2], Role::channel, "channel", "channels"));
}

/// A part in a row; those it is made of below it, moved in.
void add(TextTable& table, const Plan::Row& row, const std::string& indent) {
  std::vector<std::string> weights;
  if (row.inside.empty()) {
    for (const WeightNeed& need : row.needs)
      weights.push_back(fmt::format("{}{} {}", need.is_kept ? "kept " : "",
                                    need.name.substr(row.name.size() + 1), extents(need.shape)));
  }
  // What stands in brackets stands below, too.
  const std::string part = row.inside.empty() ? row.part : row.part.substr(0, row.part.find('('));
  const auto told = [](std::int64_t count) { return count == 0 ? "" : fmt::format("{}", count); };
  table.add({indent + row.own_name(), part, gives(row.outputs),
             fmt::format("{}", fmt::join(weights, ", ")), told(row.weights),
             told(row.multiplications)});
  for (const Plan::Row& inner : row.inside)
    add(table, inner, indent + "  ");
}

}  // namespace

std::string show_plan(const Plan& plan, const TerminalStyle& style) {
  TextTable table({{"name", TextTable::Set::left},
                   {"part", TextTable::Set::left},
                   {"gives", TextTable::Set::left},
                   {"weights", TextTable::Set::left},
                   {"numbers"},
                   {"products"}});
  table.add({"x", "given", gives(plan.example), "", "", ""});
  for (const Plan::Row& row : plan.rows)
    add(table, row, "");
  return table.text(style) + fmt::format(
                                 "\n{} {} learnt in all; an example takes {} products of two "
                                 "numbers on its way through\n",
                                 plan.weights(), plan.weights() == 1 ? "number is" : "numbers are",
                                 plan.multiplications());
}

}  // namespace lattice
