#pragma once

#include <string>
#include <vector>

#include "lattice/text/numbers.hpp"
#include "support/command.hpp"

/// Looking things up in the JSON of a worked minibatch.
namespace lattice::testing {

/// All numbers of nested arrays, row by row; of a plain number, that one.
inline std::vector<double> flat(const Json& nested) {
  if (!nested.is_array()) return {nested.get<double>()};
  std::vector<double> numbers;
  for (const Json& each : nested) {
    for (const double number : flat(each))
      numbers.push_back(number);
  }
  return numbers;
}

/// The entry of a list that has a name.
inline Json named(const Json& list, const std::string& name) {
  for (const Json& each : list) {
    if (each["name"] == name) return each;
  }
  return {};
}

/// The numbers of a table by the name that every form gives it: `hidden`, `∂hidden`,
/// `new hidden.weight`; for what a rule remembers and works out, of the weight that is told.
inline Json numbers_of(const Json& step, const std::string& table, const std::string& weight = {}) {
  constexpr std::string_view gradient = "∂";
  constexpr std::string_view after = "new ";
  if (table.starts_with(gradient))
    return named(step["reverse"], table.substr(gradient.size()))["gradient"];
  if (table.starts_with(after)) return step["updates"][table.substr(after.size())]["after"];
  if (!weight.empty()) {
    for (const char* kind : {"remembered", "worked_out"}) {
      if (step["updates"][weight][kind].contains(table))
        return step["updates"][weight][kind][table];
    }
  }
  return named(step["lines"], table)["values"];
}

}  // namespace lattice::testing
