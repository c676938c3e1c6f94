#include "worksheet/formula_functions.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <numeric>

#include "lattice/worksheet/detail/scalar.hpp"

namespace lattice {
namespace {

template <double (*function)(double)>
double of_one(std::span<const double> arguments) {
  return function(arguments[0]);
}

/// One of several numbers, found two by two; NaN where one of them is.
template <double (*choose)(double, double)>
double one_of(std::span<const double> arguments) {
  return std::accumulate(arguments.begin(), arguments.end(), arguments[0],
                         [](double a, double b) { return std::isnan(b) ? b : choose(a, b); });
}

double larger_of(double a, double b) {
  return larger(a, b);
}

double smaller_of(double a, double b) {
  return smaller(a, b);
}

double mean_of(std::span<const double> arguments) {
  return std::accumulate(arguments.begin(), arguments.end(), 0.0) /
         static_cast<double>(arguments.size());
}

double place_of_largest(std::span<const double> arguments) {
  return static_cast<double>(std::ranges::max_element(arguments) - arguments.begin());
}

double place_of_smallest(std::span<const double> arguments) {
  return static_cast<double>(std::ranges::min_element(arguments) - arguments.begin());
}

constexpr std::array all = {FormulaFunction{"exp", of_one<std::exp>},
                            FormulaFunction{"log", of_one<std::log>},
                            FormulaFunction{"tanh", of_one<std::tanh>},
                            FormulaFunction{"√", of_one<std::sqrt>},
                            FormulaFunction{"abs", of_one<std::fabs>},
                            FormulaFunction{"sin", of_one<std::sin>},
                            FormulaFunction{"cos", of_one<std::cos>},
                            FormulaFunction{"atan", of_one<std::atan>},
                            FormulaFunction{"max", one_of<larger_of>},
                            FormulaFunction{"min", one_of<smaller_of>},
                            FormulaFunction{"mean", mean_of},
                            FormulaFunction{"argmax", place_of_largest},
                            FormulaFunction{"argmin", place_of_smallest}};

}  // namespace

std::span<const FormulaFunction> formula_functions() {
  return all;
}

const FormulaFunction* formula_function(std::string_view name) {
  const auto* const found = std::ranges::find(all, name, &FormulaFunction::name);
  return found == all.end() ? nullptr : found;
}

}  // namespace lattice
