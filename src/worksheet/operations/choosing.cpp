#include "lattice/worksheet/operations/choosing.hpp"

#include <fmt/format.h>

#include "lattice/text/error.hpp"
#include "lattice/worksheet/detail/scalar.hpp"
#include "tensor/kernels.hpp"
#include "worksheet/operations/shared.hpp"

namespace lattice {
namespace {

/// Refuses a second input that is not one whole number for each row, or each thing asked for.
void check_numbers(std::string_view operation, const Inputs& inputs, const Shape& expected) {
  if (inputs.shape(1) == expected) return;
  throw ShapeError({.what = fmt::format("{}: {} does not fit {}", operation, inputs.describe(1),
                                        inputs.describe(0)),
                    .expected = to_string(expected),
                    .found = to_string(inputs.shape(1))});
}

class AtClass final : public Operation {
 public:
  [[nodiscard]] std::string_view name() const override { return "at class"; }
  [[nodiscard]] bool passes_back(std::size_t input) const override { return input == 0; }

  [[nodiscard]] Shape shape(const Inputs& inputs) const override {
    const Shape& x = inputs.shape(0);
    if (x.rank() != 2) {
      throw ShapeError({.what = fmt::format("{}: {} has no rows", name(), inputs.describe(0)),
                        .expected = "two axes: rows, and a number for each class in them",
                        .found = to_string(x)});
    }
    Shape shape{x[0]};
    shape.set_role(0, x.role(0));
    check_numbers(name(), inputs, shape);
    check_whole(inputs, 1, x[1], "at class: a class number");
    return shape;
  }

  [[nodiscard]] Tensor forward(const Inputs& inputs, const Shape& shape) const override {
    return kernels::at_columns(inputs[0], inputs[1], shape);
  }

  [[nodiscard]] Tensor reverse(const Arrival& step, std::size_t) const override {
    Tensor result = kernels::filled(step.inputs.shape(0), step.arrived.precision(), 0.0);
    kernels::put_picked(step.arrived, step.inputs[1], result);
    return result;
  }

  [[nodiscard]] Formula element(const Cells& cells, const Index& at) const override {
    return cells.input(0, {at[0], column(cells, at[0])});
  }

  [[nodiscard]] Formula reverse_element(const Cells& cells, std::size_t,
                                        const Index& at) const override {
    return where(cells.input(1, {at[0]}) == Formula(static_cast<double>(at[1])),
                 cells.arrived({at[0]}), Formula(0.0));
  }

  [[nodiscard]] std::string symbols(const Symbols& symbols) const override {
    return fmt::format("{} at {}", symbols.inputs[0], symbols.inputs[1]);
  }

  [[nodiscard]] std::string reverse_symbols(const Symbols& symbols, std::size_t) const override {
    return fmt::format("∂{} at {}, 0 elsewhere", symbols.result, symbols.inputs[1]);
  }

 private:
  static std::int64_t column(const Cells& cells, std::int64_t row) {
    return static_cast<std::int64_t>(cells.input(1, {row}).evaluate());
  }
};

class GatherRows final : public Operation {
 public:
  [[nodiscard]] std::string_view name() const override { return "gather_rows"; }
  [[nodiscard]] bool passes_back(std::size_t input) const override { return input == 0; }

  [[nodiscard]] Shape shape(const Inputs& inputs) const override {
    const Shape& x = inputs.shape(0);
    const std::int64_t rows = x[axis_in(name(), 0, x)];
    check_numbers(name(), inputs, Shape{inputs.shape(1).count()});
    check_whole(inputs, 1, rows, "gather_rows: a row number");
    return x.with_extent(0, inputs.shape(1)[0]);
  }

  [[nodiscard]] Tensor forward(const Inputs& inputs, const Shape& shape) const override {
    return kernels::gather_rows(inputs[0], inputs[1], shape);
  }

  [[nodiscard]] Tensor reverse(const Arrival& step, std::size_t) const override {
    Tensor result = kernels::filled(step.inputs.shape(0), step.arrived.precision(), 0.0);
    kernels::add_to_gathered(step.arrived, step.inputs[1], result);
    return result;
  }

  [[nodiscard]] Formula element(const Cells& cells, const Index& at) const override {
    Index place = at;
    place[0] = row(cells, at[0]);
    return cells.input(0, place);
  }

  [[nodiscard]] Formula reverse_element(const Cells& cells, std::size_t,
                                        const Index& at) const override {
    std::vector<Formula> uses;
    Index place = at;
    for (place[0] = 0; place[0] < cells.shape(1)[0]; ++place[0]) {
      if (row(cells, place[0]) == at[0]) uses.push_back(cells.arrived(place));
    }
    return Formula::sum(std::move(uses));
  }

  [[nodiscard]] std::string symbols(const Symbols& symbols) const override {
    return fmt::format("rows {} of {}", symbols.inputs[1], symbols.inputs[0]);
  }

  [[nodiscard]] std::string reverse_symbols(const Symbols& symbols, std::size_t) const override {
    return fmt::format("∂{} to rows {}", symbols.result, symbols.inputs[1]);
  }

 private:
  static std::int64_t row(const Cells& cells, std::int64_t place) {
    return static_cast<std::int64_t>(cells.input(1, {place}).evaluate());
  }
};

class OneHot final : public WithoutGradient<> {
 public:
  explicit OneHot(std::int64_t count) : count_(count) {}

  [[nodiscard]] std::string_view name() const override { return "one_hot"; }

  [[nodiscard]] Shape shape(const Inputs& inputs) const override {
    const Shape& classes = inputs.shape(0);
    check_whole(inputs, 0, count_, "one_hot: a class number");
    std::vector<std::int64_t> extents;
    extents.reserve(max_rank + 1);
    for (int axis = 0; axis < classes.rank(); ++axis)
      extents.push_back(classes[axis]);
    extents.push_back(count_);
    Shape shape{std::span<const std::int64_t>(extents)};
    for (int axis = 0; axis < classes.rank(); ++axis)
      shape.set_role(axis, classes.role(axis));
    shape.set_role(classes.rank(), Role::class_);
    return shape;
  }

  [[nodiscard]] Tensor forward(const Inputs& inputs, const Shape& shape) const override {
    Tensor result = kernels::filled(shape, inputs[0].precision(), 0.0);
    const Tensor hits = kernels::filled(inputs.shape(0), result.precision(), 1.0);
    kernels::put_picked(hits, inputs[0], result);
    return result;
  }

  [[nodiscard]] Formula element(const Cells& cells, const Index& at) const override {
    Index place = Index::zeros(at.rank() - 1);
    for (int axis = 0; axis < place.rank(); ++axis)
      place[axis] = at[axis];
    return where(cells.input(0, place) == Formula(static_cast<double>(at[place.rank()])),
                 Formula(1.0), Formula(0.0));
  }

  [[nodiscard]] std::string symbols(const Symbols& symbols) const override {
    return fmt::format("one_hot({}; {} classes)", symbols.inputs[0], count_);
  }

 private:
  std::int64_t count_;
};

}  // namespace

template <Operand X>
X at_class(const X& x, const X& classes) {
  return apply(AtClass{}, x, classes);
}

template <Operand X>
X gather_rows(const X& x, const X& rows) {
  return apply(GatherRows{}, x, rows);
}

template <Operand X>
X one_hot(const X& classes, std::int64_t count) {
  if (count < 1) {
    throw ShapeError({.what = fmt::format("one_hot: {} classes", count),
                      .expected = "1 class or more",
                      .found = fmt::format("{}", count)});
  }
  return apply(OneHot(count), classes);
}

template Line at_class(const Line&, const Line&);
template Tensor at_class(const Tensor&, const Tensor&);
template Line gather_rows(const Line&, const Line&);
template Tensor gather_rows(const Tensor&, const Tensor&);
template Line one_hot(const Line&, std::int64_t);
template Tensor one_hot(const Tensor&, std::int64_t);

}  // namespace lattice
