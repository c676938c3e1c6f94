#include "lattice/worksheet/operations/products.hpp"

#include <fmt/format.h>

#include "lattice/tensor/error.hpp"
#include "tensor/kernels.hpp"

namespace lattice {
namespace {

using kernels::Turned;

/// Refuses an input that is not a matrix.
void check_matrix(std::string_view operation, const Inputs& inputs, std::size_t input) {
  const Shape& shape = inputs.shape(input);
  if (shape.rank() == 2) return;
  throw ShapeError({.what = fmt::format("{}: {} is not a matrix", operation, inputs.describe(input)),
                    .expected = "two axes: rows and columns",
                    .found = fmt::format("{} {}", shape.rank(), shape.rank() == 1 ? "axis" : "axes"),
                    .remedy = shape.rank() == 1 ? "shape it as one row [1 × n] or one column [n × 1]"
                                                : ""});
}

Shape matrix_shape(std::int64_t rows, Role of_rows, std::int64_t columns, Role of_columns) {
  Shape shape{rows, columns};
  shape.set_role(0, of_rows);
  shape.set_role(1, of_columns);
  return shape;
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
           .where = fmt::format("last axis of {}, first axis of {}", inputs.name(0),
                                inputs.name(1)),
           .expected = "as many columns on the left as rows on the right",
           .found = fmt::format("{} has {} {}, {} expects {}", inputs.name(0), a[1],
                                role.empty() ? "columns" : fmt::format("{}s", role),
                                inputs.name(1), b[0]),
           .remedy = a.role(1) == Role::feature ? "was a column left out of the features?" : ""});
    }
    return matrix_shape(a[0], a.role(0), b[1], b.role(1));
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

class Transpose final : public Operation {
 public:
  [[nodiscard]] std::string_view name() const override { return "transpose"; }

  [[nodiscard]] Shape shape(const Inputs& inputs) const override {
    check_matrix(name(), inputs, 0);
    const Shape& x = inputs.shape(0);
    return matrix_shape(x[1], x.role(1), x[0], x.role(0));
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

Line matmul(const Line& a, const Line& b) { return apply(MatrixProduct{}, a, b); }
Tensor matmul(const Tensor& a, const Tensor& b) { return apply(MatrixProduct{}, a, b); }

Line transpose(const Line& x) { return apply(Transpose{}, x); }
Tensor transpose(const Tensor& x) { return apply(Transpose{}, x); }

}  // namespace lattice
