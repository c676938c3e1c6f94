#include "lattice/worksheet/operation.hpp"

#include <fmt/format.h>

#include "lattice/tensor/error.hpp"

namespace lattice {

std::string Inputs::name(std::size_t input) const {
  if (names_ != nullptr) return names_->name(input);
  if (size() == 1) return "the tensor";
  return input == 0 ? "the first" : "the second";
}

std::string Inputs::describe(std::size_t input) const {
  return name(input) + " " + to_string(shape(input));
}

Tensor calculate(const Operation& operation, const Inputs& inputs) {
  for (std::size_t input = 0; input < inputs.size(); ++input) {
    if (inputs[input].precision() != inputs[0].precision()) {
      throw NumberError(
          {.what = fmt::format("{}: two precisions in one operation", operation.name()),
           .expected = fmt::format("all in {} precision, like {}", word(inputs[0].precision()),
                                   inputs.describe(0)),
           .found = fmt::format("{} in {} precision", inputs.describe(input),
                                word(inputs[input].precision())),
           .remedy = "bring one to the other's precision with in(…)"});
    }
  }
  return operation.forward(inputs, operation.shape(inputs));
}

}  // namespace lattice
