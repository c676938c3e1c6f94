#pragma once

#include <cstdint>
#include <functional>
#include <memory>
#include <string>
#include <vector>

/// The same work as the library's, written by hand with Eigen: matrices of sizes known at run time,
/// as the library's are, and every buffer made once and used again. It lies in a library of its
/// own, compiled as somebody who writes such a loop would compile it, without our settings; nothing
/// of Eigen is seen from outside.
#pragma GCC visibility push(default)
namespace by_hand {

/// What a network is judged by, and what bends its hidden layers.
enum class Loss { half_mean_squared, cross_entropy };
enum class Bend { tanh, relu, sigmoid };

/// A layered network and its minibatches: dense and bent in turn, the last layer without a bend.
struct Task {
  std::vector<std::int64_t> sizes;  ///< features, and units in each layer
  std::int64_t batch = 16;
  bool in_single = false;
  Loss loss = Loss::half_mean_squared;
  Bend bend = Bend::tanh;
  double rate = 0.01;
};

/// The numbers that both sides start with, row by row.
struct Numbers {
  std::vector<double> x;
  std::vector<double> y;               ///< class numbers, or a row of targets for each row
  std::vector<std::vector<double>> W;  ///< of each layer
};

/// Row numbers in the order of the next epoch.
using Order = std::function<std::vector<std::int64_t>()>;

/// Plain descent on such a network.
class Steps {
 public:
  virtual ~Steps() = default;

  /// One training step on all rows, as they are. @return the loss before it
  virtual double step() = 0;

  /// A step on each minibatch, in a new order. @return the last loss
  virtual double epoch(const Order& order) = 0;
};
[[nodiscard]] std::unique_ptr<Steps> steps(const Task& task, const Numbers& numbers);

/// Steps of a network for grey pictures of 28 × 28: eight kernels of 5 × 5, ReLU, the maximum of
/// every 2 × 2, sixteen of 5 × 5, ReLU, the maximum, and a dense layer to ten classes. Each layer
/// lays out its patches as a matrix and multiplies.
[[nodiscard]] std::function<double()> convolutional_steps(int batch, bool in_single,
                                                          const Numbers& numbers, double rate);

/// Rows of features, and their classes.
struct Rows {
  std::vector<double> x;
  std::vector<int> classes;
};

/// A whole training run: a hidden layer of tanh, cross-entropy, Adam, minibatches in a new order
/// each epoch, and after each epoch a look at all rows of two parts. @return the loss of the train
/// part at the end
[[nodiscard]] double run(const Rows& train, const Rows& validation,
                         const std::vector<double>& hidden, const std::vector<double>& output,
                         int units, double rate, int epochs, int batch, const Order& order);

/// Batch normalisation forward and back, of so many channels that lie side by side.
[[nodiscard]] std::function<double()> normalisation(const std::vector<float>& x,
                                                    const std::vector<float>& gradient,
                                                    int channels);

/// A sparse square matrix, entry by entry, and how many columns it is multiplied with.
struct SparseTask {
  int nodes;
  int units;
  std::vector<int> rows;
  std::vector<int> columns;
  std::vector<double> numbers;
};

/// Its product with x [node × unit], row by row, as it is or turned: Eigen's own. @return its first
/// number
[[nodiscard]] std::function<double()> sparse_product(const SparseTask& task,
                                                     const std::vector<double>& x, bool turned);

/// Unpacks a gzip file into as much room as it needs: zlib's own inflating.
void unpack(const std::string& packed, std::vector<unsigned char>& to);

/// Some rows of bytes, scaled: (byte − centre)/divisor.
void scale(const std::vector<unsigned char>& bytes, const std::vector<std::int64_t>& rows,
           std::size_t width, float centre, float divisor, std::vector<float>& to);

/// The bend of every number.
void bend(Bend which, const std::vector<float>& from, std::vector<float>& to);
void bend(Bend which, const std::vector<double>& from, std::vector<double>& to);

/// The matrix product of two squares, on two threads: Eigen's own. In a library apart, since Eigen
/// is told about threads when it is compiled.
void product_on_two_threads(const float* a, const float* b, float* to, int size);

}  // namespace by_hand
#pragma GCC visibility pop
