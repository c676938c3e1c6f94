#pragma once

#include <Eigen/Core>
#include <vector>

/// The same work as the library's, written by hand with Eigen: matrices of sizes known at run time,
/// as the library's are, and every buffer made once and used again.
namespace by_hand {

template <class T>
using Matrix = Eigen::Matrix<T, Eigen::Dynamic, Eigen::Dynamic, Eigen::RowMajor>;
template <class T>
using Vector = Eigen::Matrix<T, 1, Eigen::Dynamic>;

/// What a network is judged by.
enum class Loss { half_mean_squared, cross_entropy };

/// One training step of a layered network: dense and tanh in turn, the last layer without tanh;
/// plain descent.
template <class T>
class Step {
 public:
  struct Layer {
    Matrix<T> W;
    Vector<T> b;
    Matrix<T> dW;
    Vector<T> db;
    Matrix<T> z;   ///< what comes out
    Matrix<T> dz;  ///< and its gradient
  };

  Step(Matrix<T> x, Matrix<T> targets, std::vector<int> classes, Loss loss, T rate)
      : x_(std::move(x)),
        targets_(std::move(targets)),
        classes_(std::move(classes)),
        loss_(loss),
        rate_(rate) {}

  void add(const Matrix<T>& W) {
    const Eigen::Index rows = x_.rows();
    const Eigen::Index columns = W.cols();
    layers_.push_back({W, Vector<T>::Zero(columns), W, Vector<T>(columns), Matrix<T>(rows, columns),
                       Matrix<T>(rows, columns)});
  }

  double operator()() {
    for (std::size_t l = 0; l < layers_.size(); ++l) {
      Layer& layer = layers_[l];
      layer.z.noalias() = input(l) * layer.W;
      layer.z.rowwise() += layer.b;
      if (l + 1 < layers_.size()) layer.z = layer.z.array().tanh();
    }
    const double cost = judge(layers_.back());
    for (std::size_t l = layers_.size(); l-- > 0;) {
      Layer& layer = layers_[l];
      layer.dW.noalias() = input(l).transpose() * layer.dz;
      layer.db = layer.dz.colwise().sum();
      if (l > 0) {
        Layer& before = layers_[l - 1];
        before.dz.noalias() = layer.dz * layer.W.transpose();
        before.dz.array() *= T{1} - before.z.array().square();
      }
    }
    for (Layer& layer : layers_) {
      layer.W -= rate_ * layer.dW;
      layer.b -= rate_ * layer.db;
    }
    return cost;
  }

 private:
  const Matrix<T>& input(std::size_t layer) const { return layer == 0 ? x_ : layers_[layer - 1].z; }

  double judge(Layer& last) {
    const auto rows = static_cast<T>(last.z.rows());
    if (loss_ == Loss::half_mean_squared) {
      last.dz = last.z - targets_;
      const auto count = static_cast<T>(last.dz.size());
      const T cost = T{0.5} * last.dz.squaredNorm() / count;
      last.dz /= count;
      return static_cast<double>(cost);
    }
    T cost{0};
    for (Eigen::Index row = 0; row < last.z.rows(); ++row) {
      auto scores = last.z.row(row);
      auto slope = last.dz.row(row);
      const T most = scores.maxCoeff();
      slope = (scores.array() - most).exp();
      const T total = slope.sum();
      const int truth = classes_[static_cast<std::size_t>(row)];
      cost += most + std::log(total) - scores[truth];
      slope /= total * rows;
      slope[truth] -= T{1} / rows;
    }
    return static_cast<double>(cost / rows);
  }

  Matrix<T> x_;
  Matrix<T> targets_;
  std::vector<int> classes_;
  std::vector<Layer> layers_;
  Loss loss_;
  T rate_;
};

/// The matrix product of two squares, on two threads: Eigen's own. In a library apart, since Eigen
/// is told about threads when it is compiled.
__attribute__((visibility("default"))) void product_on_two_threads(const float* a, const float* b,
                                                                   float* to, int size);

}  // namespace by_hand
