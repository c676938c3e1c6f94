#include "lattice/worksheet/operations/products.hpp"

#include <fmt/format.h>

#include "lattice/text/error.hpp"
#include "lattice/worksheet/operations/arithmetic.hpp"
#include "tensor/kernels.hpp"
#include "worksheet/operations/shared.hpp"
#include "worksheet/record.hpp"

namespace lattice {
namespace {

using kernels::Turned;

/// Refuses an input that is not a matrix, or a batch of them where that is allowed.
void check_matrix(std::string_view operation, const Inputs& inputs, std::size_t input,
                  bool may_be_batch = false) {
  const Shape& shape = inputs.shape(input);
  if (shape.rank() == 2 || (may_be_batch && shape.rank() > 2)) return;
  throw ShapeError(
      {.what = fmt::format("{}: {} is not a matrix", operation, inputs.describe(input)),
       .expected = "two axes: rows and columns",
       .found = fmt::format("{} {}", shape.rank(), shape.rank() == 1 ? "axis" : "axes"),
       .remedy = shape.rank() == 1 ? "shape it as one row [1 × n] or one column [n × 1]" : ""});
}

/// The axis of a factor along which the rows, and the columns, of its matrix lie as it is taken.
int row_axis(const Shape& shape, Turned turned) {
  return shape.rank() - (turned == Turned::no ? 2 : 1);
}
int column_axis(const Shape& shape, Turned turned) {
  return shape.rank() - (turned == Turned::no ? 1 : 2);
}

class MatrixProduct final : public Operation {
 public:
  explicit MatrixProduct(Transpose transpose = {})
      : a_turned_(transpose.first ? Turned::yes : Turned::no),
        b_turned_(transpose.second ? Turned::yes : Turned::no) {}

  [[nodiscard]] std::string_view name() const override { return "matmul"; }

  [[nodiscard]] OperationNature nature() const override {
    return {.multiplies_rows = true, .goes_by_axis = true, .gives = "product"};
  }

  /// The other factor is transposed unless this one, or that one itself, was (`reverse_symbols`).
  [[nodiscard]] Passing passing(std::size_t input) const override {
    const Turned own = input == 0 ? a_turned_ : b_turned_;
    const Turned other = input == 0 ? b_turned_ : a_turned_;
    const Turned taken = own == Turned::no ? kernels::other_way(other) : other;
    return {
        .kind = Passing::Kind::matrix, .factor = 1 - input, .is_transposed = taken == Turned::yes};
  }

  [[nodiscard]] Shape shape(const Inputs& inputs) const override {
    check_matrix(name(), inputs, 0, true);
    check_matrix(name(), inputs, 1, true);
    return shape_for(name(), inputs);
  }

  /// The same for an operation that has a product in it, whose name messages then give.
  [[nodiscard]] Shape shape_for(std::string_view operation, const Inputs& inputs) const {
    const Shape& a = inputs.shape(0);
    const Shape& b = inputs.shape(1);
    const int inner_a = column_axis(a, a_turned_);
    const int inner_b = row_axis(b, b_turned_);
    if (a[inner_a] != b[inner_b]) refuse_inner(operation, inputs, inner_a, inner_b);
    const int row = row_axis(a, a_turned_);
    const int column = column_axis(b, b_turned_);
    if (a.rank() == 2 && b.rank() == 2) {
      Shape shape = a.with_extent(0, a[row]).with_extent(1, b[column]);
      shape.set_role(0, a.role(row));
      shape.set_role(1, b.role(column));
      return shape;
    }
    Shape shape = batched(inputs, a, b);
    shape = shape.with_extent(shape.rank() - 2, a[row]).with_extent(shape.rank() - 1, b[column]);
    shape.set_role(shape.rank() - 2, a.role(row));
    shape.set_role(shape.rank() - 1, b.role(column));
    return shape;
  }

  [[nodiscard]] Tensor forward(const Inputs& inputs, const Shape& shape) const override {
    return kernels::product(inputs[0], a_turned_, inputs[1], b_turned_, shape);
  }

  [[nodiscard]] Tensor reverse(const BackwardStep& step, std::size_t input) const override {
    const Shape& shape = step.inputs.shape(input);
    const Shape& batch = step.gradient.shape();
    if (batch.rank() == 2) return of_every_use(step, input, shape);
    Shape of_batch = batch;
    for (int back = 1; back <= 2; ++back)
      of_batch = of_batch.with_extent(batch.rank() - back, shape[shape.rank() - back]);
    return kernels::sum_stretched(of_every_use(step, input, of_batch), shape);
  }

  [[nodiscard]] Formula element(const Cells& cells, const Index& at) const override {
    const Shape& result = cells.result_shape();
    const int inner = column_axis(cells.shape(0), a_turned_);
    std::vector<Formula> terms;
    for (const std::int64_t k : cells.stored(0, inner, at[result.rank() - 2])) {
      terms.push_back(
          cells.input(0, place(cells.shape(0), result, at, a_turned_, at[result.rank() - 2], k)) *
          cells.input(1, place(cells.shape(1), result, at, b_turned_, k, at[result.rank() - 1])));
    }
    return Formula::sum(std::move(terms));
  }

  [[nodiscard]] Formula reverse_element(const Cells& cells, std::size_t input,
                                        const Index& at) const override {
    const Shape& result = cells.result_shape();
    const Shape& shape = cells.shape(input);
    const Shape& other = cells.shape(1 - input);
    const Turned turned = input == 0 ? a_turned_ : b_turned_;
    const Turned other_turned = input == 0 ? b_turned_ : a_turned_;
    const std::int64_t row = at[row_axis(shape, turned)];
    const std::int64_t column = at[column_axis(shape, turned)];
    // Where the first factor is sparse, only what it stores has met a number of the second.
    const std::vector<std::int64_t> free =
        input == 0 ? cells.stored(1, column_axis(other, other_turned), column)
                   : cells.stored(0, row_axis(other, other_turned), row);
    std::vector<Formula> uses;
    for (Index use : matrices_of_use(shape, result, at)) {
      for (const std::int64_t other_place : free) {
        use[result.rank() - 2] = input == 0 ? row : other_place;
        use[result.rank() - 1] = input == 0 ? other_place : column;
        if (input == 0) {
          uses.push_back(
              cells.gradient(use) *
              cells.input(1, place(other, result, use, other_turned, column, other_place)));
        } else {
          uses.push_back(cells.input(0, place(other, result, use, other_turned, other_place, row)) *
                         cells.gradient(use));
        }
      }
    }
    return Formula::sum(std::move(uses));
  }

  [[nodiscard]] std::string symbols(const Symbols& symbols) const override {
    return fmt::format("{}{}·{}{}", symbols.inputs[0], mark(a_turned_), symbols.inputs[1],
                       mark(b_turned_));
  }

  [[nodiscard]] std::string reverse_symbols(const Symbols& symbols,
                                            std::size_t input) const override {
    using kernels::other_way;
    const std::string& a = symbols.inputs[0];
    const std::string& b = symbols.inputs[1];
    const std::string& y = symbols.result;
    if (input == 0) {
      return a_turned_ == Turned::no ? fmt::format("∂{}·{}{}", y, b, mark(other_way(b_turned_)))
                                     : fmt::format("{}{}·(∂{})ᵀ", b, mark(b_turned_), y);
    }
    return b_turned_ == Turned::no ? fmt::format("{}{}·∂{}", a, mark(other_way(a_turned_)), y)
                                   : fmt::format("(∂{})ᵀ·{}{}", y, a, mark(a_turned_));
  }

 private:
  /// What is passed on to a factor by each of its uses in a batch, of this shape.
  [[nodiscard]] Tensor of_every_use(const BackwardStep& step, std::size_t input,
                                    const Shape& shape) const {
    using kernels::other_way;
    const Tensor& other = step.inputs[1 - input];
    if (input == 0 && a_turned_ == Turned::no)
      return kernels::product(step.gradient, Turned::no, other, other_way(b_turned_), shape);
    if (input == 0) return kernels::product(other, b_turned_, step.gradient, Turned::yes, shape);
    if (b_turned_ == Turned::no)
      return kernels::product(other, other_way(a_turned_), step.gradient, Turned::no, shape);
    return kernels::product(step.gradient, Turned::yes, other, a_turned_, shape);
  }

  static std::string_view mark(Turned turned) { return turned == Turned::no ? "" : "ᵀ"; }

  /// Where a factor's number for a row and a column stands, for the matrix at `at` of the result.
  static Index place(const Shape& shape, const Shape& result, const Index& at, Turned turned,
                     std::int64_t row, std::int64_t column) {
    Index place = Index::zeros(shape.rank());
    for (int axis = 0; axis < shape.rank() - 2; ++axis) {
      if (shape[axis] > 1) place[axis] = at[axis + result.rank() - shape.rank()];
    }
    place[row_axis(shape, turned)] = row;
    place[column_axis(shape, turned)] = column;
    return place;
  }

  /// A place in each matrix of the result that the matrix of a factor at `at` went into.
  static std::vector<Index> matrices_of_use(const Shape& shape, const Shape& result,
                                            const Index& at) {
    Index first = Index::zeros(result.rank());
    kernels::AxisSet stretched = 0;
    for (int axis = 0; axis < result.rank() - 2; ++axis) {
      const int here = axis + shape.rank() - result.rank();
      if (here < 0 || (shape[here] == 1 && result[axis] > 1)) {
        stretched |= 1U << axis;
      } else {
        first[axis] = at[here];
      }
    }
    return places_along(stretched, result, first);
  }

  /// The shape of a batch of products; its last two extents are still to be set.
  Shape batched(const Inputs& inputs, const Shape& a, const Shape& b) const {
    const auto one_matrix = [](const Shape& shape) {
      return shape.with_extent(shape.rank() - 2, 1).with_extent(shape.rank() - 1, 1);
    };
    try {
      return broadcast(one_matrix(a), one_matrix(b));
    } catch (const ShapeError& error) {
      Trouble trouble = error.trouble();
      trouble.what = fmt::format("{}: the axes before the last two of {} and {} do not fit", name(),
                                 inputs.describe(0), inputs.describe(1));
      throw ShapeError(trouble);
    }
  }

  [[noreturn]] void refuse_inner(std::string_view operation, const Inputs& inputs, int inner_a,
                                 int inner_b) const {
    const Shape& a = inputs.shape(0);
    const Shape& b = inputs.shape(1);
    const bool by_column = a_turned_ == Turned::no;
    const bool would_fit_turned =
        b_turned_ == Turned::no && a[inner_a] == b[column_axis(b, b_turned_)];
    throw ShapeError(
        {.what =
             fmt::format("{}: {}{} · {}{}: {} has {}, {} expects {}", operation, inputs.describe(0),
                         mark(a_turned_), inputs.describe(1), mark(b_turned_), inputs.name(0),
                         counted(a[inner_a], a.role(inner_a), by_column ? "column" : "row",
                                 by_column ? "columns" : "rows"),
                         inputs.name(1), b[inner_b]),
         .where = fmt::format("axis {} of {}, axis {} of {}", inner_a, inputs.name(0), inner_b,
                              inputs.name(1)),
         .expected = "as many columns on the left as rows on the right",
         .found = fmt::format("{} and {}", a[inner_a], b[inner_b]),
         .remedy =
             would_fit_turned
                 ? fmt::format("was {} meant to be transposed? {{.second = true}}", inputs.name(1))
             : a.role(inner_a) == Role::feature ? "is a column missing from the features?"
                                                : ""});
  }

  Turned a_turned_;
  Turned b_turned_;
};

/// The product and the bias in one: what concerns x and W is left to the product.
class Dense final : public Operation {
 public:
  [[nodiscard]] std::string_view name() const override { return "dense"; }

  [[nodiscard]] OperationNature nature() const override {
    return {.multiplies_rows = true, .goes_by_axis = true};
  }

  [[nodiscard]] Passing passing(std::size_t input) const override {
    return input < 2 ? product_.passing(input) : Passing{.kind = Passing::Kind::as_it_is};
  }

  [[nodiscard]] Shape shape(const Inputs& inputs) const override {
    check_matrix(name(), inputs, 0);
    check_matrix(name(), inputs, 1);
    const Shape shape = product_.shape_for(name(), inputs);
    const Shape& b = inputs.shape(2);
    if (b.rank() != 1 || b[0] != shape[1]) {
      throw ShapeError(
          {.what = fmt::format("{}: {} does not fit {}", name(), inputs.describe("the bias", 2),
                               inputs.describe("the weight", 1)),
           .expected = fmt::format("[{}], one number for each column of the weight", shape[1]),
           .found = to_string(b)});
    }
    return shape;
  }

  [[nodiscard]] Tensor forward(const Inputs& inputs, const Shape& shape) const override {
    return kernels::product_and_bias(inputs[0], inputs[1], inputs[2], shape);
  }

  [[nodiscard]] Tensor reverse(const BackwardStep& step, std::size_t input) const override {
    if (input < 2) return product_.reverse(step, input);
    return kernels::sum(step.gradient, kernels::AxisSet{1}, step.inputs.shape(2));
  }

  [[nodiscard]] Formula element(const Cells& cells, const Index& at) const override {
    return product_.element(cells, at) + cells.input(2, {at[1]});
  }

  [[nodiscard]] Formula reverse_element(const Cells& cells, std::size_t input,
                                        const Index& at) const override {
    if (input < 2) return product_.reverse_element(cells, input, at);
    std::vector<Formula> uses;
    for (std::int64_t i = 0; i < cells.result_shape()[0]; ++i) {
      uses.push_back(cells.gradient({i, at[0]}));
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
  MatrixProduct product_;
};

class Transposition final : public Operation {
 public:
  [[nodiscard]] std::string_view name() const override { return "transpose"; }
  [[nodiscard]] OperationNature nature() const override { return {.goes_by_axis = true}; }

  [[nodiscard]] Passing passing(std::size_t) const override {
    return {.kind = Passing::Kind::as_it_is};
  }

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

  [[nodiscard]] Tensor reverse(const BackwardStep& step, std::size_t input) const override {
    return kernels::transpose(step.gradient, step.inputs.shape(input));
  }

  [[nodiscard]] Formula element(const Cells& cells, const Index& at) const override {
    return cells.input(0, {at[1], at[0]});
  }

  [[nodiscard]] Formula reverse_element(const Cells& cells, std::size_t,
                                        const Index& at) const override {
    return cells.gradient({at[1], at[0]});
  }

  [[nodiscard]] std::string symbols(const Symbols& symbols) const override {
    return symbols.inputs[0] + "ᵀ";
  }

  [[nodiscard]] std::string reverse_symbols(const Symbols& symbols, std::size_t) const override {
    return fmt::format("(∂{})ᵀ", symbols.result);
  }
};

/// A weight that does not say what its axes stand for is told by what it meets: its rows are
/// features where features come in, and units where units do; its columns are units.
void take_roles(const Line& weight, const Shape& inputs, Transpose transpose = {}) {
  const Shape& shape = weight.shape();
  const bool says_nothing = shape.rank() == 2 && shape.role(0) == Role::none &&
                            shape.role(1) == Role::none && inputs.rank() >= 2;
  if (!is_weight(weight.kind()) || !says_nothing) return;
  const Turned turned = transpose.second ? Turned::yes : Turned::no;
  const Role role = inputs.role(column_axis(inputs, transpose.first ? Turned::yes : Turned::no));
  // What is calculated example by example goes along that axis: of a weight none is one.
  if (role == Role::example) return;
  WorksheetRecord& record = WorksheetRecord::of(weight);
  const std::uint32_t position = WorksheetRecord::position(weight);
  record.label(position, row_axis(shape, turned), role);
  record.label(position, column_axis(shape, turned), Role::unit);
}
void take_roles(const Tensor&, const Shape&, Transpose = {}) {}

}  // namespace

template <Operand X>
X matmul(const X& a, const X& b, Transpose transpose) {
  take_roles(b, a.shape(), transpose);
  return apply(MatrixProduct(transpose), a, b);
}

template <Operand X>
X dense(const X& x, const X& W, const X& b, Form form) {
  if (form != Form::one_line) return described("product", matmul(x, W)) + b;
  take_roles(W, x.shape());
  return apply(Dense{}, x, W, b);
}

template <Operand X>
X transpose(const X& x) {
  return apply(Transposition{}, x);
}

template Line matmul(const Line&, const Line&, Transpose);
template Tensor matmul(const Tensor&, const Tensor&, Transpose);
template Line dense(const Line&, const Line&, const Line&, Form);
template Tensor dense(const Tensor&, const Tensor&, const Tensor&, Form);
template Line transpose(const Line&);
template Tensor transpose(const Tensor&);

}  // namespace lattice
