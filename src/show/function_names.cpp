#include "show/function_names.hpp"

#include <array>

namespace lattice {
namespace {

constexpr auto all = std::to_array<FunctionName>({{"exp", "EXP", "exp"},
                                                  {"log", "LN", "log"},
                                                  {"tanh", "TANH", "tanh"},
                                                  {"√", "SQRT", "sqrt"},
                                                  {"abs", "ABS", "abs"},
                                                  {"sin", "SIN", "sin"},
                                                  {"cos", "COS", "cos"},
                                                  {"atan", "ATAN", "atan"},
                                                  {"max", "MAX", "max"},
                                                  {"min", "MIN", "min"},
                                                  {"mean", "AVERAGE", ""},
                                                  {"argmax", "", ""},
                                                  {"argmin", "", ""}});

}  // namespace

std::span<const FunctionName> function_names() {
  return all;
}

}  // namespace lattice
