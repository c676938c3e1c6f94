#include "lattice/worksheet/operations/products.hpp"

#include <fmt/format.h>

#include "lattice/tensor/error.hpp"
#include "tensor/kernels.hpp"
#include "worksheet/operations/symbols.hpp"

namespace lattice {
namespace {

using kernels::Turned;

/// Refuses an input that is not a matrix.
void check_matrix(std::string_view operation, const Inputs& inputs, std::size_t input) {
  const Shape& shape = inputs.shape(input);
  if (shape.rank() == 2) return;
  throw ShapeError(
      {.what = fmt::format("{}: {} is not a matrix", operation, inputs.describe(input)),
       .expected = "two axes: rows and columns",
       .found = fmt::format("{} {}", shape.rank(), shape.rank() == 1 ? "axis" : "axes"),
       .remedy = shape.rank() == 1 ? "shape it as one row [1 × n] or one column [n × 1]" : ""});
}

class MatrixProduct final : public Operation {
 public:
  [[nodiscard]] std::string_view name() const override { return "matrix product"; }

  [[nodiscard]] Shape shape(const Inputs& inputs) const override {
    check_matrix(name(), inputs, 0);
    check_matrix(name(), inputs, 1);
    const Shape& a = inputs.shape(0);
    const Shape& b = inputs.shape(1);
    if (a[1] != b[0]) {
      const std::string_view role = word(a.role(1));
      throw ShapeError(
          {.what = fmt::format("{}: {} · {} do not fit", name(), inputs.describe(0),
                               inputs.describe(1)),
           .where =
               fmt::format("last axis of {}, first axis of {}", inputs.name(0), inputs.name(1)),
           .expected = "as many columns on the left as rows on the right",
           .found = fmt::format("{} has {} {}, {} expects {}", inputs.name(0), a[1],
                                role.empty() ? "columns" : fmt::format("{}s", role), inputs.name(1),
                                b[0]),
           .remedy = a.role(1) == Role::feature ? "was a column left out of the features?" : ""});
    }
    Shape shape = a.with_extent(1, b[1]);
    shape.set_role(1, b.role(1));
    return shape;
  }

  [[nodiscard]] Tensor forward(const Inputs& inputs, const Shape& shape) const override {
    return kernels::product(inputs[0], Turned::no, inputs[1], Turned::no, shape);
  }

  [[nodiscard]] Tensor reverse(const Arrival& step, std::size_t input) const override {
    const Shape& shape = step.inputs.shape(input);
    if (input == 0) {
      return kernels::product(step.arrived, Turned::no, step.inputs[1], Turned::yes, shape);
    }
    return kernels::product(step.inputs[0], Turned::yes, step.arrived, Turned::no, shape);
  }

  [[nodiscard]] Formula element(const Cells& cells, const Index& at) const override {
    std::vector<Formula> terms;
    for (std::int64_t k = 0; k < cells.shape(0)[1]; ++k) {
      terms.push_back(cells.input(0, {at[0], k}) * cells.input(1, {k, at[1]}));
    }
    return Formula::sum(std::move(terms));
  }

  [[nodiscard]] Formula reverse_element(const Cells& cells, std::size_t input,
                                        const Index& at) const override {
    std::vector<Formula> uses;
    if (input == 0) {
      for (std::int64_t j = 0; j < cells.shape(1)[1]; ++j) {
        uses.push_back(cells.arrived({at[0], j}) * cells.input(1, {at[1], j}));
      }
    } else {
      for (std::int64_t i = 0; i < cells.shape(0)[0]; ++i) {
        uses.push_back(cells.input(0, {i, at[0]}) * cells.arrived({i, at[1]}));
      }
    }
    return Formula::sum(std::move(uses));
  }

  [[nodiscard]] std::string symbols(const Symbols& symbols) const override {
    return fmt::format("{}·{}", symbols.inputs[0], symbols.inputs[1]);
  }

  [[nodiscard]] std::string reverse_symbols(const Symbols& symbols,
                                            std::size_t input) const override {
    return input == 0 ? fmt::format("∂{}·{}ᵀ", symbols.result, symbols.inputs[1])
                      : fmt::format("{}ᵀ·∂{}", symbols.inputs[0], symbols.result);
  }
};

/// The product and the bias in one: what concerns x and W is left to the product.
class Dense final : public Operation {
 public:
  [[nodiscard]] std::string_view name() const override { return "dense"; }

  [[nodiscard]] Shape shape(const Inputs& inputs) const override {
    const Shape shape = product_.shape(inputs);
    const Shape& b = inputs.shape(2);
    if (b.rank() != 1 || b[0] != shape[1]) {
      throw ShapeError({.what = fmt::format("{}: the bias {} does not fit {}", name(),
                                            inputs.describe(2), inputs.describe(1)),
                        .expected = fmt::format("[{}], one number for each column of {}", shape[1],
                                                inputs.name(1)),
                        .found = to_string(b)});
    }
    return shape;
  }

  [[nodiscard]] Tensor forward(const Inputs& inputs, const Shape& shape) const override {
    Tensor result = product_.forward(inputs, shape);
    kernels::add_to_rows(result, inputs[2]);
    return result;
  }

  [[nodiscard]] Tensor reverse(const Arrival& step, std::size_t input) const override {
    if (input < 2) return product_.reverse(step, input);
    return kernels::sum(step.arrived, kernels::AxisSet{1}, step.inputs.shape(2));
  }

  [[nodiscard]] Formula element(const Cells& cells, const Index& at) const override {
    return product_.element(cells, at) + cells.input(2, {at[1]});
  }

  [[nodiscard]] Formula reverse_element(const Cells& cells, std::size_t input,
                                        const Index& at) const override {
    if (input < 2) return product_.reverse_element(cells, input, at);
    std::vector<Formula> uses;
    for (std::int64_t i = 0; i < cells.result_shape()[0]; ++i) {
      uses.push_back(cells.arrived({i, at[0]}));
    }
    return Formula::sum(std::move(uses));
  }

  [[nodiscard]] std::string symbols(const Symbols& symbols) const override {
    return fmt::format("{} + {}", product_.symbols(symbols), symbols.inputs[2]);
  }

  [[nodiscard]] std::string reverse_symbols(const Symbols& symbols,
                                            std::size_t input) const override {
    if (input < 2) return product_.reverse_symbols(symbols, input);
    return fmt::format("{}∂{}", summed_over(symbols, 2), symbols.result);
  }

 private:
  [[no_unique_address]] MatrixProduct product_;
};

class Transpose final : public Operation {
 public:
  [[nodiscard]] std::string_view name() const override { return "transpose"; }

  [[nodiscard]] Shape shape(const Inputs& inputs) const override {
    check_matrix(name(), inputs, 0);
    const Shape& x = inputs.shape(0);
    Shape shape = x.with_extent(0, x[1]).with_extent(1, x[0]);
    shape.set_role(0, x.role(1));
    shape.set_role(1, x.role(0));
    return shape;
  }

  [[nodiscard]] Tensor forward(const Inputs& inputs, const Shape& shape) const override {
    return kernels::transpose(inputs[0], shape);
  }

  [[nodiscard]] Tensor reverse(const Arrival& step, std::size_t input) const override {
    return kernels::transpose(step.arrived, step.inputs.shape(input));
  }

  [[nodiscard]] Formula element(const Cells& cells, const Index& at) const override {
    return cells.input(0, {at[1], at[0]});
  }

  [[nodiscard]] Formula reverse_element(const Cells& cells, std::size_t,
                                        const Index& at) const override {
    return cells.arrived({at[1], at[0]});
  }

  [[nodiscard]] std::string symbols(const Symbols& symbols) const override {
    return symbols.inputs[0] + "ᵀ";
  }

  [[nodiscard]] std::string reverse_symbols(const Symbols& symbols, std::size_t) const override {
    return fmt::format("(∂{})ᵀ", symbols.result);
  }
};

}  // namespace

Line matmul(const Line& a, const Line& b) {
  return apply(MatrixProduct{}, a, b);
}
Tensor matmul(const Tensor& a, const Tensor& b) {
  return apply(MatrixProduct{}, a, b);
}

Line dense(const Line& x, const Line& W, const Line& b) {
  return apply(Dense{}, x, W, b);
}
Tensor dense(const Tensor& x, const Tensor& W, const Tensor& b) {
  return apply(Dense{}, x, W, b);
}

Line transpose(const Line& x) {
  return apply(Transpose{}, x);
}
Tensor transpose(const Tensor& x) {
  return apply(Transpose{}, x);
}

}  // namespace lattice
