#include "support/every_operation.hpp"

namespace lattice::testing {
namespace {

/// A table, and numbers for each of its columns, so many times.
std::vector<Tensor> with_columns(Draw& draw, int times) {
  const std::int64_t columns = draw.whole(2, 4);
  std::vector<Tensor> tensors = {draw.numbers({draw.whole(2, 4), columns})};
  for (int time = 0; time < times; ++time)
    tensors.push_back(draw.numbers({columns}));
  return tensors;
}
std::vector<Tensor> to_normalise(Draw& draw) {
  return with_columns(draw, 4);
}
std::vector<Tensor> to_normalise_by_itself(Draw& draw) {
  return with_columns(draw, 2);
}

/// Few numbers that are nearly alike leave nothing but rounding: so the variance is kept from 0.
Line normalised_over(const std::vector<int>& axes, const std::vector<Line>& x) {
  return normalised_along(x[0], x[1], x[2], {.axes = axes}, {.epsilon = 0.5}).result;
}

}  // namespace

const std::vector<OperationCase>& operations_of_core() {
  using Lines = const std::vector<Line>&;
  static const std::vector<OperationCase>
      cases =
          [] {
            std::vector<OperationCase> all = {
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
      {"power of tensors", [](Draw& draw) { return draw.stretched_pair(true); },
       [](Lines x) { return power(abs(x[0]) + 0.5, x[1]); }},
      {"power of a number", one_tensor, [](Lines x) { return power(1.7, x[0]); }},
      {"square root", one_positive, [](Lines x) { return sqrt(x[0]); }},
      {"inverse root", one_positive, [](Lines x) { return inverse_root(x[0]); }},
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
      {"sigmoid naive", one_tensor, [](Lines x) { return sigmoid(x[0], Form::naive); }},
      {"ReLU", one_tensor, [](Lines x) { return relu(x[0]); }},
      {"leaky ReLU", one_tensor, [](Lines x) { return leaky_relu(x[0], 0.1); }},
      {"softplus", one_tensor, [](Lines x) { return softplus(3 * x[0]); }},
      {"ELU", one_tensor, [](Lines x) { return elu(x[0], 0.8); }},
      {"own operation", one_tensor, [](Lines x) { return swish(x[0]); }},
      {"own operation by name", one_tensor, [](Lines x) { return wave(x[0]); }},
      {"own comparison", two_alike, [](Lines x) { return smooth_error(x[0], x[1]); }, 1},
      {"own comparison by name", two_alike, [](Lines x) { return bent_error(x[0], x[1]); }, 1},
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
      {"min", one_tensor, [](Lines x) { return min(x[0]); }},
      {"min along outer axes", four_axes,
       [](Lines x) {
         return min(x[0], {.axes = {-4, -2}, .keep = true});
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
      {"log-softmax naive", one_matrix,
       [](Lines x) { return log_softmax(x[0], last_axis, Form::naive); }},
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
         const Shape shape = draw.shape(2);
         return {sparse_of(draw, {draw.whole(1, 4), shape[0]}), draw.numbers(shape)};
       },
       [](Lines x) { return matmul(x[0], x[1]); }},
      {"sparse product, turned",
       [](Draw& draw) -> std::vector<Tensor> {
         const Shape shape = draw.shape(2);
         return {sparse_of(draw, {shape[0], draw.whole(1, 4)}), draw.numbers(shape)};
       },
       [](Lines x) { return matmul(x[0], x[1], {.first = true}); }},
      {"sum along the rows of a sparse matrix", one_sparse_square,
       [](Lines x) { return sum(x[0], {.axes = {1}}); }},
      {"mean along the columns of a sparse matrix", one_sparse_square,
       [](Lines x) { return mean(x[0], {.axes = {0}, .keep = true}); }},
      {"sum of a sparse matrix", one_sparse_square, [](Lines x) { return sum(x[0]); }},
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
      {"at class", scores_and_classes, [](Lines x) { return at_class(x[0], x[1]); }, 1},
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
      {"one-hot columns",
       [](Draw& draw) -> std::vector<Tensor> { return {draw.wholes(draw.any_shape(), 4)}; },
       [](Lines x) { return one_hot(x[0], 4, 0); }, 0},
      {"mean squared", two_alike, [](Lines x) { return mean_squared(x[0], x[1]); }},
      {"mean squared, counted", two_alike_counted,
       [](Lines x) { return mean_squared(x[0], x[1], {.row_weights = x[2]}); }, 2},
      {"half mean squared", two_alike, [](Lines x) { return half_mean_squared(x[0], x[1]); }},
      {"half mean squared, counted", two_alike_counted,
       [](Lines x) { return half_mean_squared(x[0], x[1], {.row_weights = x[2]}); }, 2},
      {"binary cross-entropy", scores_and_labels,
       [](Lines x) { return binary_cross_entropy(x[0], x[1]); }},
      {"cross-entropy of classes", scores_and_classes,
       [](Lines x) { return cross_entropy(x[0], x[1]); }, 1},
      {"cross-entropy of classes, counted", scores_and_classes,
       [](Lines x) { return cross_entropy(x[0], x[1], {.row_weights = x[2]}); }, 1},
      {"at class of columns", in_columns<scores_and_classes>,
       [](Lines x) { return at_class(x[0], x[1]); }, 1},
      {"softmax of columns", in_columns<one_matrix>, [](Lines x) { return softmax(x[0]); }},
      {"softmax of columns written out", in_columns<one_matrix>,
       [](Lines x) { return softmax(x[0], across_classes, Form::written_out); }},
      {"log-softmax of columns naive", in_columns<one_matrix>,
       [](Lines x) { return log_softmax(x[0], across_classes, Form::naive); }},
      {"argmax of columns", in_columns<one_matrix>, [](Lines x) { return argmax(x[0]); }, 0},
      {"cross-entropy of columns", in_columns<scores_and_classes>,
       [](Lines x) { return cross_entropy(x[0], x[1]); }, 1},
      {"cross-entropy of columns, counted", in_columns<scores_and_classes>,
       [](Lines x) { return cross_entropy(x[0], x[1], {.row_weights = x[2]}); }, 1},
      {"cross-entropy of columns of probabilities", in_columns<scores_and_probabilities>,
       [](Lines x) { return cross_entropy(x[0], x[1]); }, 2},
      {"cross-entropy of columns of probabilities, counted", in_columns<scores_and_probabilities>,
       [](Lines x) { return cross_entropy(x[0], x[1], {.row_weights = x[2]}); }, 2},
      {"mean squared of columns, counted", in_columns<tables_counted>,
       [](Lines x) { return mean_squared(x[0], x[1], {.row_weights = x[2]}); }, 2},
      {"cross-entropy of probabilities", scores_and_probabilities,
       [](Lines x) { return cross_entropy(x[0], x[1]); }, 2},
      {"cross-entropy of probabilities, counted", scores_and_probabilities,
       [](Lines x) { return cross_entropy(x[0], x[1], {.row_weights = x[2]}); }, 2},
      {"normalised", to_normalise,
       [](Lines x) {
         return normalised(x[0], x[1], square(x[2]), x[3], x[4], {.epsilon = 0.5});
       }},
      {"normalised by itself over examples", to_normalise_by_itself,
       [](Lines x) { return normalised_over({0}, x); }},
      {"normalised by itself, each example", to_normalise_by_itself,
       [](Lines x) { return normalised_over({1}, x); }},
      {"normalised pictures",
       [](Draw& draw) -> std::vector<Tensor> {
         // Small, since the formula of each gradient goes through every number of its channel.
         const std::int64_t channels = draw.whole(1, 3);
         return {draw.numbers({draw.whole(1, 2), draw.whole(1, 3), draw.whole(2, 3), channels}),
                 draw.numbers({channels}), draw.numbers({channels})};
       },
       [](Lines x) { return normalised_over({0, 1, 2}, x); }},
      {"L2 term", one_tensor, [](Lines x) { return l2_term(x[0], 0.3); }},
    };
            for (const OperationCase& each : cases_of_contributing())
              all.push_back(each);
            return all;
          }();
  return cases;
}

}  // namespace lattice::testing
