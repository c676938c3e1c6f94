#pragma once

#include <algorithm>
#include <functional>
#include <ostream>
#include <string>
#include <vector>

#include "lattice/core.hpp"

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

  [[nodiscard]] Precision precision() const { return precision_; }

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
inline std::vector<Tensor> tables_counted(Draw& draw) {
  const Shape shape = draw.shape(2);
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
/// The same with examples as columns: tables lie the other way, and say so by their roles.
template <auto rows>
inline std::vector<Tensor> in_columns(Draw& draw) {
  std::vector<Tensor> inputs = rows(draw);
  for (Tensor& input : inputs) {
    if (input.shape().rank() == 2)
      input = permute(input, {1, 0}).with({Role::class_, Role::example});
  }
  return inputs;
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

/// A sparse matrix that stores about half of its numbers; or none.
inline Tensor sparse_of(Draw& draw, const Shape& shape) {
  const Tensor numbers = draw.numbers(shape);
  std::vector<MatrixEntry> entries;
  for (std::int64_t at = 0; at < shape.count(); ++at) {
    const Index place = shape.index(at);
    if (draw.whole(0, 1) == 0) entries.push_back({place[0], place[1], numbers.at(place)});
  }
  return sparse_matrix(shape, entries, draw.precision());
}
inline std::vector<Tensor> one_sparse_square(Draw& draw) {
  const std::int64_t extent = draw.whole(1, 5);
  return {sparse_of(draw, {extent, extent})};
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

/// The same for a comparison with a truth.
inline const auto smooth_error = own_comparison(
    "smooth", [](auto z, auto t) { return sqrt(1 + square(z - t)) - 1; },
    [](auto z, auto t, auto lost) { return (z - t) / (lost + 1); });
inline const auto bent_error = own_comparison(
    "bent", [](double z, double t) { return std::cosh(z - t); },
    [](double z, double t) { return std::sinh(z - t); });

/// The operation that CONTRIBUTING.md adds, compiled from there.
[[nodiscard]] std::vector<OperationCase> cases_of_contributing();

/// Every operation of the core, and of the subjects: each that is listed there is held to all
/// invariants of the engine.
const std::vector<OperationCase>& operations_of_core();
const std::vector<OperationCase>& operations_of_subjects();

}  // namespace lattice::testing
