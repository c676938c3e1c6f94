#include "lattice/worksheet/operations/losses.hpp"

#include <fmt/format.h>

#include "lattice/tensor/error.hpp"
#include "lattice/worksheet/scalar.hpp"
#include "tensor/kernels.hpp"

namespace lattice {
namespace {

class HalfMeanSquared final : public Operation {
 public:
  [[nodiscard]] std::string_view name() const override { return "half mean squared"; }

  [[nodiscard]] Shape shape(const Inputs& inputs) const override {
    if (inputs.shape(0) == inputs.shape(1)) return {};
    throw ShapeError({.what = fmt::format("{}: {} and {} differ in shape", name(),
                                          inputs.describe(0), inputs.describe(1)),
                      .expected = to_string(inputs.shape(0)),
                      .found = to_string(inputs.shape(1)),
                      .remedy = "shape the targets like the guesses, such as [example × 1]"});
  }

  [[nodiscard]] Tensor forward(const Inputs& inputs, const Shape&) const override {
    return kernels::half_mean_squared(inputs[0], inputs[1]);
  }

  [[nodiscard]] Tensor reverse(const Arrival& step, std::size_t input) const override {
    const Tensor& here = step.inputs[input];
    const Tensor& other = step.inputs[1 - input];
    const double arrived = step.arrived.number();
    const auto count = static_cast<double>(here.count());
    return kernels::map(here, other, [arrived, count](const auto& z, const auto& y) {
      return number_for(z, arrived) / number_for(z, count) * (z - y);
    });
  }

  [[nodiscard]] Formula element(const Cells& cells, const Index&) const override {
    const Shape& shape = cells.shape(0);
    std::vector<Formula> squares;
    for (std::int64_t offset = 0; offset < shape.count(); ++offset) {
      const Index at = shape.index(offset);
      squares.push_back(square(cells.input(0, at) - cells.input(1, at)));
    }
    return 0.5 * (Formula::sum(std::move(squares)) / static_cast<double>(shape.count()));
  }

  [[nodiscard]] Formula reverse_element(const Cells& cells, std::size_t input,
                                        const Index& at) const override {
    return cells.arrived({}) / static_cast<double>(cells.shape(0).count()) *
           (cells.input(input, at) - cells.input(1 - input, at));
  }

  [[nodiscard]] std::string symbols(const Symbols& symbols) const override {
    return fmt::format("0.5 × mean(({} − {})²)", symbols.inputs[0], symbols.inputs[1]);
  }

  [[nodiscard]] std::string reverse_symbols(const Symbols& symbols,
                                            std::size_t input) const override {
    return fmt::format("∂{}/{} × ({} − {})", symbols.result, symbols.shapes[0].count(),
                       symbols.inputs[input], symbols.inputs[1 - input]);
  }
};

}  // namespace

Line half_mean_squared(const Line& z, const Line& y) {
  return apply(HalfMeanSquared{}, z, y);
}
Tensor half_mean_squared(const Tensor& z, const Tensor& y) {
  return apply(HalfMeanSquared{}, z, y);
}

}  // namespace lattice
