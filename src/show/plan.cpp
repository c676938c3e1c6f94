#include "lattice/show/plan.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <vector>

#include "show/text_table.hpp"

namespace lattice {

namespace {

/// A part in a row; those it is made of below it, moved in.
void add(TextTable& table, const Plan::Row& row, const std::string& indent) {
  std::vector<std::string> weights;
  if (row.inside.empty()) {
    for (const WeightNeed& need : row.needs)
      weights.push_back(fmt::format("{}{} {}", need.is_kept ? "kept " : "",
                                    need.name.substr(row.name.size() + 1), to_string(need.shape)));
  }
  // What stands in brackets stands below, too.
  const std::string part = row.inside.empty() ? row.part : row.part.substr(0, row.part.find('('));
  table.add({indent + row.own_name(), part, to_string(row.outputs),
             fmt::format("{}", fmt::join(weights, ", ")),
             row.weights == 0 ? "" : fmt::format("{}", row.weights)});
  for (const Plan::Row& inner : row.inside)
    add(table, inner, indent + "  ");
}

}  // namespace

std::string show_plan(const Plan& plan, const TerminalStyle& style) {
  TextTable table({{"name", TextTable::Set::left},
                   {"part", TextTable::Set::left},
                   {"gives", TextTable::Set::left},
                   {"weights", TextTable::Set::left},
                   {"numbers"}});
  table.add({"x", "given", to_string(plan.example), "", ""});
  for (const Plan::Row& row : plan.rows)
    add(table, row, "");
  return table.text(style) + fmt::format("\n{} {} are learnt in all\n", plan.weights(),
                                         plan.weights() == 1 ? "number" : "numbers");
}

}  // namespace lattice
