#include "lattice/worksheet/local_derivative.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <span>
#include <vector>

#include "lattice/tensor/arithmetic.hpp"
#include "lattice/text/error.hpp"
#include "lattice/worksheet/operations/products.hpp"
#include "worksheet/record.hpp"

namespace lattice {
namespace {

/// The number that all of them are; nothing where they differ, or are none.
std::optional<double> same_everywhere(const Tensor& numbers) {
  const double first = numbers.at_offset(0);
  for (std::int64_t at = 1; at < numbers.count(); ++at) {
    if (numbers.at_offset(at) != first) return std::nullopt;
  }
  return std::isfinite(first) ? std::optional(first) : std::nullopt;
}

LocalDerivative each_number(Tensor numbers) {
  LocalDerivative local{.numbers = std::move(numbers)};
  local.everywhere = same_everywhere(local.numbers);
  return local;
}

std::vector<const Tensor*> values_of(const std::vector<Line>& lines) {
  std::vector<const Tensor*> values;
  values.reserve(lines.size());
  for (const Line& line : lines)
    values.push_back(&line.value());
  return values;
}

/// How the first row of the result along an axis changes with that of the input: ∂yᵢ/∂xⱼ in row i
/// and column j.
Tensor first_matrix(const Operation& operation, const Inputs& inputs, std::size_t input,
                    const Tensor& result, int axis) {
  const Shape& shape = result.shape();
  const std::int64_t count = shape[axis];
  const Precision precision = result.precision();
  Tensor matrix = zeros(Shape{count, count}.with({shape.role(axis), shape.role(axis)}), precision);
  for (std::int64_t row = 0; row < count; ++row) {
    Index at = Index::zeros(shape.rank());
    at[axis] = row;
    Tensor one = zeros(shape, precision);
    one.set(at, 1.0);
    const Tensor slopes = operation.reverse({inputs, result, one}, input);
    for (std::int64_t column = 0; column < count; ++column) {
      at[axis] = column;
      matrix.set({row, column}, slopes.at(at));
    }
  }
  return matrix;
}

/// What there is a matrix of its own for; nothing where there is one.
std::string rows_across(const Shape& shape, int axis) {
  if (shape.count() == shape[axis]) return "";
  const Role role = shape.rank() == 2 ? shape.role(1 - axis) : Role::none;
  return role == Role::none ? "row" : std::string(word(role));
}

}  // namespace

std::string LocalDerivative::factor_in_symbols() const {
  return factor.name() + (is_transposed ? "ᵀ" : "");
}

std::optional<LocalDerivative> local_derivative(const Line& line, std::size_t input) {
  const WorksheetRecord::Entry& entry = WorksheetRecord::entry(line);
  const std::vector<Line> lines = line.inputs();
  if (input >= lines.size()) {
    throw IndexError({.what = fmt::format("{} has no input number {}", line.name(), input),
                      .expected = fmt::format("fewer than {}", lines.size()),
                      .found = fmt::format("{}", input)});
  }
  const Operation& operation = *entry.operation;
  if (!operation.passes_back(input)) return std::nullopt;
  const Passing passing = operation.passing(input);
  const Shape& shape = line.shape();
  const Shape& of_input = lines[input].shape();
  if (std::max(shape.count(), of_input.count()) > most_local_numbers) return std::nullopt;
  if (passing.kind == Passing::Kind::as_it_is) {
    LocalDerivative local = each_number(ones(of_input, line.value().precision()));
    local.is_as_it_is = true;
    return local;
  }
  if (passing.kind == Passing::Kind::matrix) {
    const Line& factor = lines[passing.factor];
    const Tensor& matrix = factor.value();
    if (matrix.is_sparse() || matrix.shape().rank() != 2 || shape.rank() != 2) return std::nullopt;
    return LocalDerivative{.kind = LocalDerivative::Kind::matrix,
                           .numbers = passing.is_transposed ? transpose(matrix) : matrix,
                           .factor = factor,
                           .is_transposed = passing.is_transposed};
  }
  if (passing.kind == Passing::Kind::window) {
    const Line& factor = lines[passing.factor];
    if (factor.shape().count() > most_local_numbers) return std::nullopt;
    return LocalDerivative{
        .kind = LocalDerivative::Kind::window, .numbers = factor.value(), .factor = factor};
  }
  if (passing.kind == Passing::Kind::across) {
    constexpr std::int64_t most_across = 64;
    if (shape[passing.axis] > most_across) return std::nullopt;
    const std::vector<const Tensor*> of_lines = values_of(lines);
    return LocalDerivative{
        .kind = LocalDerivative::Kind::across,
        .numbers = first_matrix(operation, Inputs(of_lines), input, line.value(), passing.axis),
        .axis = passing.axis,
        .each = rows_across(shape, passing.axis)};
  }
  const bool is_stretched = passing.kind == Passing::Kind::number_by_number;
  if (!is_stretched && passing.kind != Passing::Kind::shared_out && shape.count() != 1)
    return std::nullopt;
  const Precision precision = line.value().precision();
  std::vector<Tensor> values;
  values.reserve(lines.size());
  for (const Line& each : lines) {
    const bool has_shape = !is_stretched || each.shape() == shape;
    values.push_back(has_shape ? each.value() : each.value() + zeros(shape, precision));
  }
  std::vector<const Tensor*> pointers;
  pointers.reserve(values.size());
  for (const Tensor& value : values)
    pointers.push_back(&value);
  const Tensor one = ones(shape, precision);
  const Inputs inputs(pointers);
  const BackwardStep step{inputs, line.value(), one};
  return each_number(operation.reverse(step, input).reshaped(is_stretched ? shape : of_input));
}

}  // namespace lattice
