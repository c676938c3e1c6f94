#include "lattice/learning/descent.hpp"

#include <fmt/format.h>

#include <cmath>

#include "lattice/tensor/error.hpp"
#include "lattice/worksheet/scalar.hpp"
#include "tensor/kernels.hpp"

namespace lattice {

void Descent::check() const {
  if (std::isfinite(rate) && rate > 0.0) return;
  throw SettingError({.what = "this learning rate cannot be used",
                      .expected = "a number above 0, such as 0.01",
                      .found = format_number(rate)});
}

Tensor Descent::updated(const Tensor& weight, const Tensor& gradient) const {
  check();
  if (weight.shape() != gradient.shape()) {
    throw ShapeError({.what = "a weight and its gradient have the same shape",
                      .expected = to_string(weight.shape()),
                      .found = to_string(gradient.shape())});
  }
  return kernels::map(weight, gradient, [this](const auto& w, const auto& g) {
    return new_weight(w, g, number_for(w, rate));
  });
}

void Descent::update(Weights& weights, const Gradients& gradients) const {
  for (const Gradients::Entry& entry : gradients) {
    Tensor& weight = weights[entry.weight];
    weight = updated(weight, entry.gradient);
  }
}

Explanation Descent::explain_update(const Line& line, const Tensor& weight, const Tensor& gradient,
                                    const Index& at) const {
  const std::string name = line.name();
  const Formula before(
      Cell{.name = name, .at = at, .number = weight.at(at), .line = line.number()});
  const Formula change(Cell{.kind = Cell::Kind::gradient,
                            .name = name,
                            .at = at,
                            .number = gradient.at(at),
                            .line = line.number()});
  const Formula how_far(Cell{.kind = Cell::Kind::setting, .name = "rate", .number = rate});
  return {.subject = fmt::format("new {}{}", name, to_string(at)),
          .formula = new_weight(before, change, how_far),
          .value = updated(weight, gradient).at(at),
          .note = ""};
}

}  // namespace lattice
