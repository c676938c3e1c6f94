#include "lattice/show/plan.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <vector>

#include "show/text_table.hpp"

namespace lattice {

std::string show_plan(const Plan& plan, const TerminalStyle& style) {
  TextTable table({{"name", TextTable::Set::left},
                   {"part", TextTable::Set::left},
                   {"gives", TextTable::Set::left},
                   {"weights", TextTable::Set::left},
                   {"numbers"}});
  table.add({"x", "given", to_string(plan.example), "", ""});
  for (const Plan::Row& row : plan.rows) {
    std::vector<std::string> weights;
    for (const WeightNeed& need : row.needs)
      weights.push_back(fmt::format("{}{} {}", need.is_kept ? "kept " : "",
                                    need.name.substr(row.name.size() + 1), to_string(need.shape)));
    table.add({row.name, row.part, to_string(row.outputs),
               fmt::format("{}", fmt::join(weights, ", ")),
               row.weights == 0 ? "" : fmt::format("{}", row.weights)});
  }
  return table.text(style) + fmt::format("\n{} {} are learnt in all\n", plan.weights(),
                                         plan.weights() == 1 ? "number" : "numbers");
}

}  // namespace lattice
