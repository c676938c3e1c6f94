#pragma once

#include <functional>
#include <ostream>
#include <string>
#include <vector>

#include "lattice/lattice.hpp"

namespace lattice::testing {

/// Draws the shapes and numbers that an operation is tried on.
class Draw {
 public:
  explicit Draw(std::uint64_t seed, Precision precision) : random_(seed), precision_(precision) {}

  /// From `low` to `high`, both included.
  int whole(int low, int high) { return low + static_cast<int>(random_.below(high - low + 1)); }

  /// A shape with extents of 1 to 4.
  Shape shape(int rank) {
    std::vector<std::int64_t> extents;
    for (int axis = 0; axis < rank; ++axis)
      extents.push_back(whole(1, 4));
    return Shape(std::span<const std::int64_t>(extents));
  }
  Shape any_shape() { return shape(whole(0, 4)); }

  /// A shape that stretches to `shape`: some axes are 1, some of the first are missing.
  Shape shrunk(const Shape& shape) {
    std::vector<std::int64_t> extents;
    for (int axis = whole(0, shape.rank()); axis < shape.rank(); ++axis) {
      extents.push_back(whole(0, 2) == 0 ? 1 : shape[axis]);
    }
    return Shape(std::span<const std::int64_t>(extents));
  }

  Tensor numbers(const Shape& shape) { return normal(shape, 0.0, 1.0, random_, precision_); }
  /// Whole numbers from 0 to `end` − 1.
  Tensor wholes(const Shape& shape, std::int64_t end) {
    std::vector<double> numbers;
    for (std::int64_t i = 0; i < shape.count(); ++i)
      numbers.push_back(static_cast<double>(random_.below(end)));
    return tensor(shape, numbers, precision_);
  }
  /// How much rows count: some of them not at all, the first one always.
  Tensor counted(std::int64_t rows) {
    Tensor numbers = uniform({rows}, 0.0, 2.0, random_, precision_);
    for (std::int64_t row = 1; row < rows; row += 3)
      numbers.set({row}, 0.0);
    return numbers;
  }
  Tensor positive(const Shape& shape) { return uniform(shape, 0.3, 2.0, random_, precision_); }

  /// Two tensors, one of which is stretched to the other, on either side.
  std::vector<Tensor> stretched_pair(bool second_positive = false) {
    const Shape large = any_shape();
    const Shape small = shrunk(large);
    const bool swap = whole(0, 1) == 1;
    const Shape& second = swap ? large : small;
    return {numbers(swap ? small : large), second_positive ? positive(second) : numbers(second)};
  }

 private:
  Random random_;
  Precision precision_;
};

/// An operation, and how to try it: inputs at random, and the operation on them.
struct OperationCase {
  std::string name;
  std::function<std::vector<Tensor>(Draw&)> inputs;
  std::function<Line(const std::vector<Line>&)> apply;
  std::size_t learnt = most_inputs;  ///< so many of the first inputs get a gradient

  friend void PrintTo(const OperationCase& operation, std::ostream* out) { *out << operation.name; }
};

inline std::vector<Tensor> one_tensor(Draw& draw) {
  return {draw.numbers(draw.any_shape())};
}
inline std::vector<Tensor> one_positive(Draw& draw) {
  return {draw.positive(draw.any_shape())};
}
inline std::vector<Tensor> one_matrix(Draw& draw) {
  return {draw.numbers(draw.shape(2))};
}
inline std::vector<Tensor> two_alike(Draw& draw) {
  const Shape shape = draw.any_shape();
  return {draw.numbers(shape), draw.numbers(shape)};
}
inline std::vector<Tensor> a_pair(Draw& draw) {
  return draw.stretched_pair();
}
inline std::vector<Tensor> four_axes(Draw& draw) {
  return {draw.numbers(draw.shape(4))};
}
inline std::vector<Tensor> two_factors(Draw& draw) {
  const std::int64_t depth = draw.whole(1, 9);
  return {draw.numbers({draw.whole(1, 9), depth}), draw.numbers({depth, draw.whole(1, 9)})};
}

/// Guesses and truth of one shape with rows, and how much each row counts.
inline std::vector<Tensor> two_alike_counted(Draw& draw) {
  const Shape shape = draw.shape(draw.whole(1, 3));
  return {draw.numbers(shape), draw.numbers(shape), draw.counted(shape[0])};
}
/// Scores and labels from 0 to 1.
inline std::vector<Tensor> scores_and_labels(Draw& draw) {
  const Shape shape = draw.any_shape();
  return {3.0 * draw.numbers(shape), sigmoid(draw.numbers(shape))};
}
/// Scores and class numbers, and how much each row counts.
inline std::vector<Tensor> scores_and_classes(Draw& draw) {
  const Shape shape = draw.shape(2);
  return {2.0 * draw.numbers(shape), draw.wholes({shape[0]}, shape[1]), draw.counted(shape[0])};
}
/// Scores and rows of probabilities, and how much each row counts.
inline std::vector<Tensor> scores_and_probabilities(Draw& draw) {
  const Shape shape = draw.shape(2);
  return {2.0 * draw.numbers(shape), softmax(draw.numbers(shape)), draw.counted(shape[0])};
}
/// Two batches of matrices, one of which is stretched; a turned one is the wrong way round.
template <bool first_turned, bool second_turned>
inline std::vector<Tensor> two_batches(Draw& draw) {
  const Shape batch = draw.shape(draw.whole(0, 2));
  const std::int64_t depth = draw.whole(1, 4);
  const auto with = [](const Shape& axes, std::int64_t rows, std::int64_t columns) {
    std::vector<std::int64_t> extents;
    for (int axis = 0; axis < axes.rank(); ++axis)
      extents.push_back(axes[axis]);
    extents.push_back(rows);
    extents.push_back(columns);
    return Shape(std::span<const std::int64_t>(extents));
  };
  const std::int64_t rows = draw.whole(1, 4);
  const std::int64_t columns = draw.whole(1, 4);
  const bool first_small = draw.whole(0, 1) == 1;
  const Shape a = first_small ? draw.shrunk(batch) : batch;
  const Shape b = first_small ? batch : draw.shrunk(batch);
  return {draw.numbers(first_turned ? with(a, depth, rows) : with(a, rows, depth)),
          draw.numbers(second_turned ? with(b, columns, depth) : with(b, depth, columns))};
}

/// An operation of a student's, shown as arithmetic, and one that is shown by its name.
inline const auto swish = own_operation(
    "swish", [](auto x) { return x / (1 + exp(-x)); },
    [](auto x) {
      const auto gate = 1 / (1 + exp(-x));
      return gate + x * gate * (1 - gate);
    });
inline const auto wave = own_operation(
    "wave", [](double x) { return std::sin(x); }, [](double x, double) { return std::cos(x); });

/// The operation that CONTRIBUTING.md adds, compiled from there.
[[nodiscard]] std::vector<OperationCase> cases_of_contributing();

/// Every operation there is. One that is listed here is held to all invariants of the engine.
inline const std::vector<OperationCase>& every_operation() {
  using Lines = const std::vector<Line>&;
  static const std::vector<OperationCase> cases = {
      {"add", a_pair, [](Lines x) { return x[0] + x[1]; }},
      {"add number", one_tensor, [](Lines x) { return x[0] + 1.5; }},
      {"number add", one_tensor, [](Lines x) { return -0.5 + x[0]; }},
      {"subtract", a_pair, [](Lines x) { return x[0] - x[1]; }},
      {"subtract number", one_tensor, [](Lines x) { return x[0] - 1.5; }},
      {"number subtract", one_tensor, [](Lines x) { return 1 - x[0]; }},
      {"multiply", a_pair, [](Lines x) { return x[0] * x[1]; }},
      {"multiply by number", one_tensor, [](Lines x) { return x[0] * 3; }},
      {"number multiply", one_tensor, [](Lines x) { return -0.5 * x[0]; }},
      {"divide", [](Draw& draw) { return draw.stretched_pair(true); },
       [](Lines x) { return x[0] / x[1]; }},
      {"divide by number", one_tensor, [](Lines x) { return x[0] / 3; }},
      {"number divide", one_positive, [](Lines x) { return 2 / x[0]; }},
      {"negate", one_tensor, [](Lines x) { return -x[0]; }},
      {"square", one_tensor, [](Lines x) { return square(x[0]); }},
      {"power", one_positive, [](Lines x) { return power(x[0], 2.5); }},
      {"third power", one_tensor, [](Lines x) { return power(x[0], 3); }},
      {"square root", one_positive, [](Lines x) { return sqrt(x[0]); }},
      {"absolute value", one_tensor, [](Lines x) { return abs(x[0]); }},
      {"maximum", a_pair, [](Lines x) { return maximum(x[0], x[1]); }},
      {"maximum with number", one_tensor, [](Lines x) { return maximum(x[0], 0.3); }},
      {"minimum", a_pair, [](Lines x) { return minimum(x[0], x[1]); }},
      {"minimum with number", one_tensor, [](Lines x) { return minimum(x[0], 0.3); }},
      {"clip", one_tensor, [](Lines x) { return clip(x[0], -0.5, 0.7); }},
      {"above", a_pair, [](Lines x) { return above(x[0], x[1]); }, 0},
      {"above number", one_tensor, [](Lines x) { return above(x[0], 0.2); }, 0},
      {"below", a_pair, [](Lines x) { return below(x[0], x[1]); }, 0},
      {"below number", one_tensor, [](Lines x) { return below(x[0], 0.2); }, 0},
      {"at least", a_pair, [](Lines x) { return at_least(x[0], x[1]); }, 0},
      {"at least number", one_tensor, [](Lines x) { return at_least(x[0], 0.2); }, 0},
      {"at most", a_pair, [](Lines x) { return at_most(x[0], x[1]); }, 0},
      {"at most number", one_tensor, [](Lines x) { return at_most(x[0], 0.2); }, 0},
      {"equal",
       [](Draw& draw) -> std::vector<Tensor> {
         const Shape shape = draw.any_shape();
         return {draw.wholes(shape, 2), draw.wholes(shape, 2)};
       },
       [](Lines x) { return equal(x[0], x[1]); }, 0},
      {"equal to number", one_tensor, [](Lines x) { return equal(above(x[0], 0.0), 1); }, 0},
      {"exp", one_tensor, [](Lines x) { return exp(x[0]); }},
      {"log", one_positive, [](Lines x) { return log(x[0]); }},
      {"sigmoid", one_tensor, [](Lines x) { return sigmoid(x[0]); }},
      {"tanh", one_tensor, [](Lines x) { return tanh(x[0]); }},
      {"sigmoid written out", one_tensor, [](Lines x) { return sigmoid(x[0], Form::written_out); }},
      {"sigmoid careless", one_tensor, [](Lines x) { return sigmoid(x[0], Form::careless); }},
      {"ReLU", one_tensor, [](Lines x) { return relu(x[0]); }},
      {"leaky ReLU", one_tensor, [](Lines x) { return leaky_relu(x[0], 0.1); }},
      {"softplus", one_tensor, [](Lines x) { return softplus(3 * x[0]); }},
      {"ELU", one_tensor, [](Lines x) { return elu(x[0], 0.8); }},
      {"own operation", one_tensor, [](Lines x) { return swish(x[0]); }},
      {"own operation by name", one_tensor, [](Lines x) { return wave(x[0]); }},
      {"sum", one_tensor, [](Lines x) { return sum(x[0]); }},
      {"sum along rows", one_matrix, [](Lines x) { return sum(x[0], {.axes = {1}}); }},
      {"sum along columns, kept", one_matrix,
       [](Lines x) { return sum(x[0], {.axes = {0}, .keep = true}); }},
      {"sum along outer axes",
       [](Draw& draw) -> std::vector<Tensor> { return {draw.numbers(draw.shape(4))}; },
       [](Lines x) {
         return sum(x[0], {.axes = {0, 3}});
       }},
      {"mean", one_tensor, [](Lines x) { return mean(x[0]); }},
      {"mean along columns", one_matrix, [](Lines x) { return mean(x[0], {.axes = {0}}); }},
      {"mean along inner axes",
       [](Draw& draw) -> std::vector<Tensor> { return {draw.numbers(draw.shape(4))}; },
       [](Lines x) {
         return mean(x[0], {.axes = {2, 1}, .keep = true});
       }},
      {"variance", one_tensor, [](Lines x) { return variance(x[0]); }},
      {"variance along columns", one_matrix, [](Lines x) { return variance(x[0], {.axes = {0}}); }},
      {"variance along inner axes", four_axes,
       [](Lines x) {
         return variance(x[0], {.axes = {1, 3}, .keep = true});
       }},
      {"max", one_tensor, [](Lines x) { return max(x[0]); }},
      {"max along rows", one_matrix, [](Lines x) { return max(x[0], {.axes = {1}}); }},
      {"max along outer axes", four_axes,
       [](Lines x) {
         return max(x[0], {.axes = {0, 2}, .keep = true});
       }},
      {"log-sum-exp", one_tensor, [](Lines x) { return log_sum_exp(x[0]); }},
      {"log-sum-exp along rows", one_matrix,
       [](Lines x) { return log_sum_exp(x[0], {.axes = {1}}); }},
      {"log-sum-exp along outer axes", four_axes,
       [](Lines x) {
         return log_sum_exp(x[0], {.axes = {0, 2}, .keep = true});
       }},
      {"softmax", one_matrix, [](Lines x) { return softmax(x[0]); }},
      {"softmax along columns", one_matrix, [](Lines x) { return softmax(x[0], 0); }},
      {"softmax of four axes", four_axes, [](Lines x) { return softmax(x[0], 1); }},
      {"softmax written out", one_matrix,
       [](Lines x) { return softmax(x[0], last_axis, Form::written_out); }},
      {"log-softmax", one_matrix, [](Lines x) { return log_softmax(x[0]); }},
      {"log-softmax along columns", one_matrix, [](Lines x) { return log_softmax(x[0], 0); }},
      {"log-softmax careless", one_matrix,
       [](Lines x) { return log_softmax(x[0], last_axis, Form::careless); }},
      {"argmax", one_matrix, [](Lines x) { return argmax(x[0]); }, 0},
      {"argmax of four axes", four_axes, [](Lines x) { return argmax(x[0], 1); }, 0},
      {"matrix product", two_factors, [](Lines x) { return matmul(x[0], x[1]); }},
      {"dense",
       [](Draw& draw) {
         std::vector<Tensor> inputs = two_factors(draw);
         inputs.push_back(draw.numbers({inputs[1].shape()[1]}));
         return inputs;
       },
       [](Lines x) { return dense(x[0], x[1], x[2]); }},
      {"product of batches", two_batches<false, false>, [](Lines x) { return matmul(x[0], x[1]); }},
      {"product with the first turned", two_batches<true, false>,
       [](Lines x) { return matmul(x[0], x[1], {.first = true}); }},
      {"product with the second turned", two_batches<false, true>,
       [](Lines x) { return matmul(x[0], x[1], {.second = true}); }},
      {"product with both turned", two_batches<true, true>,
       [](Lines x) { return matmul(x[0], x[1], {.first = true, .second = true}); }},
      {"sparse product",
       [](Draw& draw) -> std::vector<Tensor> {
         const std::int64_t entries = draw.whole(1, 6);
         const Shape shape = draw.shape(2);
         return {draw.numbers(shape),
                 join({draw.wholes({entries, 1}, 3), draw.wholes({entries, 1}, shape[0]),
                       draw.numbers({entries, 1})},
                      1)};
       },
       [](Lines x) { return sparse_matmul(x[1], x[0], 3); }, 1},
      {"transpose", one_matrix, [](Lines x) { return transpose(x[0]); }},
      {"reshape",
       [](Draw& draw) -> std::vector<Tensor> {
         return {draw.numbers({2, draw.whole(1, 4), 3})};
       },
       [](Lines x) {
         return reshape(x[0], {x[0].shape().count() / 2, 2});
       }},
      {"flatten", four_axes, [](Lines x) { return flatten(x[0]); }},
      {"permute", four_axes,
       [](Lines x) {
         return permute(x[0], {2, 0, 3, 1});
       }},
      {"slice", four_axes, [](Lines x) { return slice(x[0], 2, {.from = x[0].shape()[2] / 2}); }},
      {"slice in steps", one_matrix, [](Lines x) { return slice(x[0], 0, {.step = 2}); }},
      {"join",
       [](Draw& draw) -> std::vector<Tensor> {
         const Shape shape = draw.shape(3);
         return {draw.numbers(shape), draw.numbers(shape.with_extent(1, 2)),
                 draw.numbers(shape.with_extent(1, 3))};
       },
       [](Lines x) {
         return join({x[0], x[1], x[2], x[0]}, 1);
       }},
      {"pad", four_axes,
       [](Lines x) { return pad(x[0], 2, {.before = 1, .after = 2, .number = -0.5}); }},
      {"repeat", one_matrix, [](Lines x) { return repeat(x[0], 1, 3); }},
      {"pick", scores_and_classes, [](Lines x) { return pick(x[0], x[1]); }, 1},
      {"gather rows",
       [](Draw& draw) -> std::vector<Tensor> {
         const Shape shape = draw.shape(draw.whole(1, 3));
         return {draw.numbers(shape), draw.wholes({draw.whole(1, 6)}, shape[0])};
       },
       [](Lines x) { return gather_rows(x[0], x[1]); }, 1},
      {"one-hot",
       [](Draw& draw) -> std::vector<Tensor> {
         return {draw.wholes(draw.shape(draw.whole(0, 2)), 4)};
       },
       [](Lines x) { return one_hot(x[0], 4); }, 0},
      {"mean squared", two_alike, [](Lines x) { return mean_squared(x[0], x[1]); }},
      {"mean squared, counted", two_alike_counted,
       [](Lines x) { return mean_squared(x[0], x[1], x[2]); }, 2},
      {"half mean squared", two_alike, [](Lines x) { return half_mean_squared(x[0], x[1]); }},
      {"half mean squared, counted", two_alike_counted,
       [](Lines x) { return half_mean_squared(x[0], x[1], x[2]); }, 2},
      {"binary cross-entropy", scores_and_labels,
       [](Lines x) { return binary_cross_entropy(x[0], x[1]); }},
      {"cross-entropy of classes", scores_and_classes,
       [](Lines x) { return cross_entropy(x[0], x[1]); }, 1},
      {"cross-entropy of classes, counted", scores_and_classes,
       [](Lines x) { return cross_entropy(x[0], x[1], x[2]); }, 1},
      {"cross-entropy of probabilities", scores_and_probabilities,
       [](Lines x) { return cross_entropy(x[0], x[1]); }, 2},
      {"cross-entropy of probabilities, counted", scores_and_probabilities,
       [](Lines x) { return cross_entropy(x[0], x[1], x[2]); }, 2},
      {"L2 term", one_tensor, [](Lines x) { return l2_term(x[0], 0.3); }},
  };
  return cases;
}

}  // namespace lattice::testing
