#include "lattice/worksheet/operation.hpp"

#include <fmt/format.h>

#include <array>

#include "lattice/text/error.hpp"

namespace lattice {

std::string Inputs::name(std::size_t input) const {
  if (names_ != nullptr) return names_->name(input);
  if (size() == 1) return "the tensor";
  constexpr std::array<std::string_view, most_inputs> words = {
      "first", "second", "third", "fourth", "fifth", "sixth", "seventh", "eighth"};
  return fmt::format("the {}", words.at(input));
}

std::string Inputs::describe(std::size_t input) const {
  return name(input) + " " + to_string(shape(input));
}

std::string Inputs::describe(std::string_view what, std::size_t input) const {
  return names_ == nullptr ? fmt::format("{} {}", what, to_string(shape(input)))
                           : fmt::format("{} {}", what, describe(input));
}

std::string Inputs::place(std::size_t input, const Index& at) const {
  if (names_ != nullptr) return name(input) + to_string(at);
  const std::string where = at.rank() == 1 ? fmt::format("row {}", at[0]) : to_string(at);
  return fmt::format("{} of {}", where, name(input));
}

Tensor calculate(const Operation& operation, const Inputs& inputs, Tensor* aside) {
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
  const Shape shape = operation.shape(inputs);
  return aside == nullptr ? operation.forward(inputs, shape)
                          : operation.forward_with_aside(inputs, shape, *aside);
}

}  // namespace lattice
