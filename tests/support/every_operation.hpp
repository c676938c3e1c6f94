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
inline std::vector<Tensor> two_factors(Draw& draw) {
  const std::int64_t depth = draw.whole(1, 9);
  return {draw.numbers({draw.whole(1, 9), depth}), draw.numbers({depth, draw.whole(1, 9)})};
}

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
      {"exp", one_tensor, [](Lines x) { return exp(x[0]); }},
      {"log", one_positive, [](Lines x) { return log(x[0]); }},
      {"sigmoid", one_tensor, [](Lines x) { return sigmoid(x[0]); }},
      {"tanh", one_tensor, [](Lines x) { return tanh(x[0]); }},
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
      {"matrix product", two_factors, [](Lines x) { return matmul(x[0], x[1]); }},
      {"dense",
       [](Draw& draw) {
         std::vector<Tensor> inputs = two_factors(draw);
         inputs.push_back(draw.numbers({inputs[1].shape()[1]}));
         return inputs;
       },
       [](Lines x) { return dense(x[0], x[1], x[2]); }},
      {"transpose", one_matrix, [](Lines x) { return transpose(x[0]); }},
      {"half mean squared", two_alike, [](Lines x) { return half_mean_squared(x[0], x[1]); }},
  };
  return cases;
}

}  // namespace lattice::testing
