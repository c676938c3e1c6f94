#include "worksheet/operations/by_example.hpp"

#include <fmt/format.h>

#include <cmath>
#include <vector>

#include "lattice/tensor/arithmetic.hpp"
#include "lattice/text/error.hpp"
#include "lattice/worksheet/operations/rearranging.hpp"
#include "tensor/kernels.hpp"
#include "worksheet/operations/shared.hpp"

namespace lattice {
namespace {

bool has_counted(std::size_t inputs) {
  return inputs > weights_input;
}

/// How many examples a tensor is of: one number is of one.
std::int64_t examples_of(const Shape& shape) {
  return shape.rank() == 0 ? 1 : shape[axis_of_examples(shape)];
}

}  // namespace

void check_counted(std::string_view name, const Inputs& inputs) {
  if (!has_counted(inputs.size())) return;
  const Shape& z = inputs.shape(0);
  const Tensor& row_weights = inputs[weights_input];
  const std::int64_t rows = z.rank() == 0 ? 0 : z[axis_of_examples(z)];
  if (z.rank() == 0 || row_weights.shape() != Shape{rows}) {
    throw ShapeError({.what = fmt::format("{}: {} are not row weights for {}", name,
                                          inputs.describe(weights_input), inputs.describe(0)),
                      .expected = z.rank() == 0 ? "a tensor with rows"
                                                : fmt::format("[{}], one number a row", rows),
                      .found = to_string(row_weights.shape())});
  }
  double total = 0.0;
  for (std::int64_t row = 0; row < rows; ++row) {
    const double number = row_weights.at_offset(row);
    if (!(number >= 0.0) || std::isinf(number)) {
      throw NumberError({.what = fmt::format("{}: a row weight is too large", name),
                         .where = inputs.place(weights_input, {row}),
                         .expected = "a number of 0 or more",
                         .found = format_number(number)});
    }
    total += number;
  }
  if (total == 0.0) {
    throw NumberError({.what = fmt::format("{}: no row counts", name),
                       .where = inputs.name(weights_input),
                       .expected = "a number above 0 for at least one row",
                       .found = fmt::format("{} zeros", rows),
                       .remedy = "a mean of no rows is undefined; leave this minibatch out"});
  }
}

Tensor normalised_row_weights(const Inputs& inputs) {
  if (!has_counted(inputs.size())) {
    const std::int64_t rows = examples_of(inputs.shape(0));
    return kernels::filled(Shape{rows}, inputs[0].precision(), 1.0 / static_cast<double>(rows));
  }
  const Tensor& row_weights = inputs[weights_input];
  return row_weights / sum(row_weights);
}

Formula total_weight(const Cells& cells, bool row_weights) {
  const std::int64_t rows = examples_of(cells.shape(0));
  if (!row_weights) return static_cast<double>(rows);
  std::vector<Formula> numbers;
  for (std::int64_t row = 0; row < rows; ++row)
    numbers.push_back(cells.input(weights_input, {row}));
  return Formula::sum(std::move(numbers));
}

std::string loss_call(std::string_view name, const Symbols& symbols) {
  const bool is_weighted = has_counted(symbols.inputs.size());
  return fmt::format("{}({}, {}{}{})", function_called(name), symbols.inputs[0], symbols.inputs[1],
                     is_weighted ? "; weighted by " : "",
                     is_weighted ? symbols.inputs[weights_input] : "");
}

Tensor by_rows(const Tensor& x) {
  return axis_of_examples(x.shape()) == 0 ? x : permute(x, {1, 0});
}

Tensor as_laid_out(const Tensor& rows, const Shape& shape) {
  return axis_of_examples(shape) == 0 ? rows : permute(rows, {1, 0});
}

Index place_of(const Shape& shape, std::int64_t example, std::int64_t number) {
  return axis_of_examples(shape) == 0 ? Index{example, number} : Index{number, example};
}

}  // namespace lattice
