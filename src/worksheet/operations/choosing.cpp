#include "lattice/worksheet/operations/choosing.hpp"

#include <fmt/format.h>

#include "lattice/text/error.hpp"
#include "lattice/worksheet/detail/scalar.hpp"
#include "tensor/kernels.hpp"
#include "tensor/rearranging_kernels.hpp"
#include "worksheet/operations/by_example.hpp"
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
  [[nodiscard]] OperationNature nature() const override {
    return {.goes_by_axis = true, .gives = "chosen"};
  }
  [[nodiscard]] Passing passing(std::size_t) const override {
    return {.kind = Passing::Kind::shared_out};
  }

  [[nodiscard]] std::string_view name() const override { return "at class"; }
  [[nodiscard]] bool passes_back(std::size_t input) const override { return input == 0; }
  [[nodiscard]] std::int64_t choices(const Inputs& inputs, std::size_t input) const override {
    const Shape& x = inputs.shape(0);
    return input == 1 ? x[1 - axis_of_examples(x)] : 0;
  }

  [[nodiscard]] Shape shape(const Inputs& inputs) const override {
    const Shape& x = inputs.shape(0);
    if (x.rank() != 2) {
      throw ShapeError({.what = fmt::format("{}: {} has no rows", name(), inputs.describe(0)),
                        .expected = "two axes: rows, and a number for each class in them",
                        .found = to_string(x)});
    }
    const int examples = axis_of_examples(x);
    Shape shape{x[examples]};
    shape.set_role(0, x.role(examples));
    check_numbers(name(), inputs, shape);
    check_whole(inputs, 1, x[1 - examples], "at class: a class number");
    return shape;
  }

  [[nodiscard]] Tensor forward(const Inputs& inputs, const Shape& shape) const override {
    return kernels::at_columns(by_rows(inputs[0]), inputs[1], shape);
  }

  [[nodiscard]] Tensor reverse(const BackwardStep& step, std::size_t) const override {
    const Shape& x = step.inputs.shape(0);
    Tensor result = kernels::filled(axis_of_examples(x) == 0 ? x : Shape{x[1], x[0]},
                                    step.gradient.precision(), 0.0);
    kernels::put_picked(step.gradient, step.inputs[1], result);
    return as_laid_out(result, x);
  }

  [[nodiscard]] Formula element(const Cells& cells, const Index& at) const override {
    const Shape& x = cells.shape(0);
    return cells.picked(cells.input(1, {at[0]}), x[1 - axis_of_examples(x)],
                        [&](std::int64_t of) { return cells.input(0, place_of(x, at[0], of)); });
  }

  [[nodiscard]] Formula reverse_element(const Cells& cells, std::size_t,
                                        const Index& at) const override {
    const int examples = axis_of_examples(cells.shape(0));
    return where(cells.input(1, {at[examples]}) == Formula(static_cast<double>(at[1 - examples])),
                 cells.gradient({at[examples]}), Formula(0.0));
  }

  [[nodiscard]] std::string symbols(const Symbols& symbols) const override {
    return fmt::format("{} at {}", symbols.inputs[0], symbols.inputs[1]);
  }

  [[nodiscard]] std::string reverse_symbols(const Symbols& symbols, std::size_t) const override {
    return fmt::format("∂{} at {}, 0 elsewhere", symbols.result, symbols.inputs[1]);
  }
};

class GatherRows final : public Operation {
 public:
  [[nodiscard]] Passing passing(std::size_t) const override {
    return {.kind = Passing::Kind::as_it_is};
  }

  [[nodiscard]] std::string_view name() const override { return "gather_rows"; }
  [[nodiscard]] OperationNature nature() const override { return {.goes_by_axis = true}; }
  [[nodiscard]] bool passes_back(std::size_t input) const override { return input == 0; }
  [[nodiscard]] std::int64_t choices(const Inputs& inputs, std::size_t input) const override {
    return input == 1 ? inputs.shape(0)[0] : 0;
  }

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

  [[nodiscard]] Tensor reverse(const BackwardStep& step, std::size_t) const override {
    Tensor result = kernels::filled(step.inputs.shape(0), step.gradient.precision(), 0.0);
    kernels::add_to_gathered(step.gradient, step.inputs[1], result);
    return result;
  }

  [[nodiscard]] Formula element(const Cells& cells, const Index& at) const override {
    return cells.picked(cells.input(1, {at[0]}), cells.shape(0)[0], [&](std::int64_t row) {
      Index place = at;
      place[0] = row;
      return cells.input(0, place);
    });
  }

  [[nodiscard]] Formula reverse_element(const Cells& cells, std::size_t,
                                        const Index& at) const override {
    std::vector<Formula> uses;
    Index place = at;
    for (place[0] = 0; place[0] < cells.shape(1)[0]; ++place[0]) {
      const Formula row = cells.input(1, {place[0]});
      const auto here = static_cast<double>(at[0]);
      if (cells.hold_for_any()) {
        uses.push_back(where(row == Formula(here), cells.gradient(place), Formula(0.0)));
      } else if (row.evaluate() == here) {
        uses.push_back(cells.gradient(place));
      }
    }
    return Formula::sum(std::move(uses));
  }

  [[nodiscard]] std::string symbols(const Symbols& symbols) const override {
    return fmt::format("gather_rows({}, {})", symbols.inputs[0], symbols.inputs[1]);
  }

  [[nodiscard]] std::string reverse_symbols(const Symbols& symbols, std::size_t) const override {
    return fmt::format("∂{} to rows {}", symbols.result, symbols.inputs[1]);
  }
};

class OneHot final : public WithoutGradient<> {
 public:
  OneHot(std::int64_t count, int axis) : count_(count), axis_(axis) {}

  [[nodiscard]] std::string_view name() const override { return "one_hot"; }
  [[nodiscard]] OperationNature nature() const override { return {.goes_by_axis = true}; }
  [[nodiscard]] std::int64_t choices(const Inputs&, std::size_t) const override { return count_; }

  [[nodiscard]] Shape shape(const Inputs& inputs) const override {
    const Shape& classes = inputs.shape(0);
    check_whole(inputs, 0, count_, "one_hot: a class number");
    std::vector<std::int64_t> extents;
    std::vector<Role> roles;
    extents.reserve(max_rank + 1);
    roles.reserve(max_rank + 1);
    for (int axis = 0; axis < classes.rank(); ++axis) {
      extents.push_back(classes[axis]);
      roles.push_back(classes.role(axis));
    }
    extents.insert(extents.begin() + axis_, count_);
    roles.insert(roles.begin() + axis_, Role::class_);
    Shape shape{std::span<const std::int64_t>(extents)};
    for (int axis = 0; axis < shape.rank(); ++axis)
      shape.set_role(axis, roles[static_cast<std::size_t>(axis)]);
    return shape;
  }

  [[nodiscard]] Tensor forward(const Inputs& inputs, const Shape& shape) const override {
    const Tensor& classes = inputs[0];
    Tensor result = kernels::filled(shape, classes.precision(), 0.0);
    if (axis_ == classes.shape().rank()) {
      const Tensor hits = kernels::filled(classes.shape(), result.precision(), 1.0);
      kernels::put_picked(hits, classes, result);
      return result;
    }
    for (std::int64_t offset = 0; offset < classes.count(); ++offset) {
      const auto number = static_cast<std::int64_t>(classes.at_offset(offset));
      result.set(with_class(classes.shape().index(offset), number), 1.0);
    }
    return result;
  }

  [[nodiscard]] Formula element(const Cells& cells, const Index& at) const override {
    Index place = Index::zeros(at.rank() - 1);
    for (int axis = 0; axis < place.rank(); ++axis)
      place[axis] = at[axis < axis_ ? axis : axis + 1];
    return where(cells.input(0, place) == Formula(static_cast<double>(at[axis_])), Formula(1.0),
                 Formula(0.0));
  }

  [[nodiscard]] std::string symbols(const Symbols& symbols) const override {
    const bool is_last = axis_ + 1 == symbols.result_shape.rank();
    return fmt::format("one_hot({}; {} classes{})", symbols.inputs[0], count_,
                       is_last ? "" : fmt::format(", axis {}", axis_));
  }

 private:
  /// The place of a class number in the result.
  [[nodiscard]] Index with_class(const Index& at, std::int64_t number) const {
    Index place = Index::zeros(at.rank() + 1);
    for (int axis = 0; axis < place.rank(); ++axis)
      place[axis] = axis == axis_ ? number : at[axis < axis_ ? axis : axis - 1];
    return place;
  }

  std::int64_t count_;
  int axis_;
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
X one_hot(const X& classes, std::int64_t count, int axis) {
  if (count < 1) {
    throw ShapeError({.what = fmt::format("one_hot: {} classes", count),
                      .expected = "1 class or more",
                      .found = fmt::format("{}", count)});
  }
  const int rank = classes.shape().rank() + 1;
  if (axis < -rank || axis >= rank) {
    throw ShapeError(
        {.what = fmt::format("one_hot: axis {} of the result is not there", axis),
         .expected = fmt::format("0 to {}, or −1 to −{} counted from the last", rank - 1, rank),
         .found = fmt::format("{}", axis)});
  }
  return apply(OneHot(count, axis < 0 ? axis + rank : axis), classes);
}

template Line at_class(const Line&, const Line&);
template Tensor at_class(const Tensor&, const Tensor&);
template Line gather_rows(const Line&, const Line&);
template Tensor gather_rows(const Tensor&, const Tensor&);
template Line one_hot(const Line&, std::int64_t, int);
template Tensor one_hot(const Tensor&, std::int64_t, int);

}  // namespace lattice
