#include "worksheet/operations/counted_rows.hpp"

#include <fmt/format.h>

#include <cmath>
#include <vector>

#include "lattice/tensor/arithmetic.hpp"
#include "lattice/text/error.hpp"
#include "tensor/kernels.hpp"

namespace lattice {
namespace {

bool has_counted(std::size_t inputs) {
  return inputs > counted_input;
}

}  // namespace

void check_counted(std::string_view name, const Inputs& inputs) {
  if (!has_counted(inputs.size())) return;
  const Shape& z = inputs.shape(0);
  const Tensor& counted = inputs[counted_input];
  if (z.rank() == 0 || counted.shape() != Shape{z[0]}) {
    throw ShapeError({.what = fmt::format("{}: {} does not say how much each row of {} counts",
                                          name, inputs.describe(counted_input), inputs.describe(0)),
                      .expected = z.rank() == 0 ? "a tensor with rows"
                                                : fmt::format("[{}], one number a row", z[0]),
                      .found = to_string(counted.shape())});
  }
  double total = 0.0;
  for (std::int64_t row = 0; row < z[0]; ++row) {
    const double number = counted.at_offset(row);
    if (!(number >= 0.0) || std::isinf(number)) {
      throw NumberError({.what = fmt::format("{}: a row cannot count so much", name),
                         .where = inputs.place(counted_input, {row}),
                         .expected = "a number of 0 or more",
                         .found = format_number(number)});
    }
    total += number;
  }
  if (total == 0.0) {
    throw NumberError({.what = fmt::format("{}: no row counts", name),
                       .where = inputs.name(counted_input),
                       .expected = "a number above 0 for at least one row",
                       .found = fmt::format("{} zeros", z[0]),
                       .remedy = "a mean over nothing is no number; leave the minibatch out"});
  }
}

Tensor shares_of_rows(const Inputs& inputs) {
  if (!has_counted(inputs.size())) {
    const std::int64_t rows = inputs.shape(0).rank() == 0 ? 1 : inputs.shape(0)[0];
    return kernels::filled(Shape{rows}, inputs[0].precision(), 1.0 / static_cast<double>(rows));
  }
  const Tensor& counted = inputs[counted_input];
  return counted / sum(counted);
}

Tensor as_column(const Tensor& x) {
  return x.reshaped({x.count(), 1});
}

Formula total_counted(const Cells& cells, bool counted) {
  const std::int64_t rows = cells.shape(0).rank() == 0 ? 1 : cells.shape(0)[0];
  if (!counted) return static_cast<double>(rows);
  std::vector<Formula> numbers;
  for (std::int64_t row = 0; row < rows; ++row)
    numbers.push_back(cells.input(counted_input, {row}));
  return Formula::sum(std::move(numbers));
}

}  // namespace lattice
