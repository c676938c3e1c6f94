#include "lattice/graphs/adjacency.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <string>

#include "lattice/tensor/sparse.hpp"
#include "lattice/text/error.hpp"
#include "lattice/worksheet/operations/along_axes.hpp"
#include "lattice/worksheet/operations/arithmetic.hpp"
#include "tensor/sparse_kernels.hpp"
#include "worksheet/operations/shared.hpp"

namespace lattice {
namespace {

class WithLoops final : public Operation {
 public:
  [[nodiscard]] std::string_view name() const override { return "with loops"; }

  [[nodiscard]] Shape shape(const Inputs& inputs) const override {
    const Shape& x = inputs.shape(0);
    if (x.rank() == 2 && x[0] == x[1]) return x;
    throw ShapeError(
        {.what = fmt::format("with loops: {} is not an adjacency matrix", inputs.describe(0)),
         .expected = "[n × n]: a row and a column for each node",
         .found = to_string(x)});
  }

  [[nodiscard]] Tensor forward(const Inputs& inputs, const Shape&) const override {
    return kernels::with_loops(inputs[0]);
  }

  [[nodiscard]] Tensor reverse(const BackwardStep& step, std::size_t) const override {
    return step.gradient;
  }

  [[nodiscard]] Formula element(const Cells& cells, const Index& at) const override {
    const Formula number = cells.input(0, at);
    return at[0] == at[1] ? number + 1.0 : number;
  }

  [[nodiscard]] Formula reverse_element(const Cells& cells, std::size_t,
                                        const Index& at) const override {
    return cells.gradient(at);
  }

  [[nodiscard]] std::string symbols(const Symbols& symbols) const override {
    return symbols.are_typed ? fmt::format("with_loops({})", symbols.inputs[0])
                             : symbols.inputs[0] + " + I";
  }

  [[nodiscard]] std::string reverse_symbols(const Symbols& symbols, std::size_t) const override {
    return "∂" + symbols.result;
  }
};

class ScaleBoth final : public Operation {
 public:
  [[nodiscard]] std::string_view name() const override { return "scale both"; }

  [[nodiscard]] Shape shape(const Inputs& inputs) const override {
    const Shape& x = inputs.shape(0);
    const auto fits = [&](std::size_t input, int axis) {
      const Shape& by = inputs.shape(input);
      return by.rank() == 1 && by[0] == x[axis];
    };
    if (x.rank() == 2 && fits(1, 0) && fits(2, 1)) return x;
    throw ShapeError(
        {.what = fmt::format("scale both: {} and {} do not fit {}", inputs.describe(1),
                             inputs.describe(2), inputs.describe(0)),
         .expected = "[n × m], and as scales [n] for its rows and [m] for its columns",
         .found = fmt::format("{}, {} and {}", to_string(x), to_string(inputs.shape(1)),
                              to_string(inputs.shape(2)))});
  }

  [[nodiscard]] Tensor forward(const Inputs& inputs, const Shape&) const override {
    return kernels::scaled_both(inputs[0], inputs[1], inputs[2]);
  }

  [[nodiscard]] Tensor reverse(const BackwardStep& step, std::size_t input) const override {
    const Inputs& inputs = step.inputs;
    if (input == 0) return kernels::scaled_both(step.gradient, inputs[1], inputs[2]);
    return kernels::scaled_both_slope(step.gradient, inputs[0], inputs[3 - input], input == 1);
  }

  [[nodiscard]] Formula element(const Cells& cells, const Index& at) const override {
    return cells.input(1, {at[0]}) * cells.input(0, at) * cells.input(2, {at[1]});
  }

  [[nodiscard]] Formula reverse_element(const Cells& cells, std::size_t input,
                                        const Index& at) const override {
    if (input == 0) return cells.input(1, {at[0]}) * cells.gradient(at) * cells.input(2, {at[1]});
    const int own = input == 1 ? 0 : 1;
    std::vector<Formula> uses;
    for (const std::int64_t other : cells.stored(0, 1 - own, at[0])) {
      Index place = Index::zeros(2);
      place[own] = at[0];
      place[1 - own] = other;
      uses.push_back(cells.gradient(place) * cells.input(0, place) *
                     cells.input(3 - input, {other}));
    }
    return Formula::sum(std::move(uses));
  }

  [[nodiscard]] std::string symbols(const Symbols& symbols) const override {
    if (symbols.are_typed) return fmt::format("scale_both({})", fmt::join(symbols.inputs, ", "));
    return fmt::format("{1}ᵢ × {0}ᵢⱼ × {2}ⱼ", symbols.inputs[0], symbols.inputs[1],
                       symbols.inputs[2]);
  }

  [[nodiscard]] std::string reverse_symbols(const Symbols& symbols,
                                            std::size_t input) const override {
    if (input == 0) {
      return fmt::format("{}ᵢ × ∂{}ᵢⱼ × {}ⱼ", symbols.inputs[1], symbols.result, symbols.inputs[2]);
    }
    return fmt::format("Σ{} ∂{}ᵢⱼ × {}ᵢⱼ × {}{}", input == 1 ? "ⱼ" : "ᵢ", symbols.result,
                       symbols.inputs[0], symbols.inputs[3 - input], input == 1 ? "ⱼ" : "ᵢ");
  }
};

const Tensor& value_of(const Line& line) {
  return line.value();
}
const Tensor& value_of(const Tensor& tensor) {
  return tensor;
}

Line called(const std::string& name, const Line& line) {
  return named(name, line);
}
Tensor called(const std::string&, const Tensor& tensor) {
  return tensor;
}

/// 1/√ of the sums of a matrix along one axis, called so.
template <Operand X>
X scale_along(const X& matrix, int axis, const std::string& ending) {
  const X degrees = called("degrees" + ending, sum(matrix, {.axes = {axis}}));
  return called("scale" + ending, inverse_root(degrees));
}

}  // namespace

template <Operand X>
X with_loops(const X& adjacency) {
  return apply(WithLoops{}, adjacency);
}

template <Operand X>
X scale_both(const X& matrix, const X& rows, const X& columns) {
  return apply(ScaleBoth{}, matrix, rows, columns);
}

template <Operand X>
X normalised_adjacency(const X& adjacency) {
  const X looped = called("looped", with_loops(adjacency));
  const X rows = scale_along(looped, 1, "");
  const X columns = is_symmetric(value_of(adjacency)) ? rows : scale_along(looped, 0, ".out");
  return called(std::string(shares_name), scale_both(looped, rows, columns));
}

template Line with_loops(const Line&);
template Tensor with_loops(const Tensor&);
template Line scale_both(const Line&, const Line&, const Line&);
template Tensor scale_both(const Tensor&, const Tensor&, const Tensor&);
template Line normalised_adjacency(const Line&);
template Tensor normalised_adjacency(const Tensor&);

}  // namespace lattice
