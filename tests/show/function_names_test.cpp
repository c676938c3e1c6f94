#include "show/function_names.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include "worksheet/formula_functions.hpp"

namespace lattice {
namespace {

TEST(function_names, are_told_for_every_function_that_formulas_know) {
  std::vector<std::string_view> known;
  for (const FormulaFunction& each : formula_functions())
    known.push_back(each.name);
  std::vector<std::string_view> told;
  for (const FunctionName& each : function_names())
    told.push_back(each.name);
  EXPECT_THAT(told, ::testing::UnorderedElementsAreArray(known));
}

}  // namespace
}  // namespace lattice
