#include <Eigen/Core>
#include <algorithm>
#include <cmath>
#include <cstring>

#include "by_hand.hpp"

namespace by_hand {
namespace {

template <class T>
using Matrix = Eigen::Matrix<T, Eigen::Dynamic, Eigen::Dynamic, Eigen::RowMajor>;
template <class T>
using Vector = Eigen::Matrix<T, 1, Eigen::Dynamic>;

/// Pictures side by side: a row for each point, a column for each channel.
struct Size {
  int rows;
  int columns;
  int channels;
  [[nodiscard]] int points() const { return rows * columns; }
};

/// A convolution by its patches, ReLU, and the maximum of every two by two.
template <class T>
class Layer {
 public:
  Layer(int batch, const Size& in, int window, const std::vector<double>& kernel)
      : batch_(batch),
        in_(in),
        window_(window),
        out_{in.rows - window + 1, in.columns - window + 1,
             static_cast<int>(kernel.size()) / (window * window * in.channels)} {
    const Eigen::Index depth = static_cast<Eigen::Index>(window) * window * in.channels;
    W_ = Eigen::Map<const Matrix<double>>(kernel.data(), depth, out_.channels).template cast<T>();
    b_ = Vector<T>::Zero(out_.channels);
    patches_.resize(static_cast<Eigen::Index>(batch) * out_.points(), depth);
    z_.resize(patches_.rows(), out_.channels);
    dz_.resize(z_.rows(), z_.cols());
    pooled_.resize(static_cast<Eigen::Index>(batch) * pooled().points(), out_.channels);
    largest_.resize(pooled_.rows(), pooled_.cols());
    dW_.resize(W_.rows(), W_.cols());
    db_.resize(b_.size());
    dpatches_.resize(patches_.rows(), patches_.cols());
  }

  [[nodiscard]] Size pooled() const { return {out_.rows / 2, out_.columns / 2, out_.channels}; }
  [[nodiscard]] const Matrix<T>& result() const { return pooled_; }

  void forward(const T* x) {
    const int run = window_ * in_.channels;
    T* to = patches_.data();
    for (int picture = 0; picture < batch_; ++picture) {
      const T* const from = x + static_cast<Eigen::Index>(picture) * in_.points() * in_.channels;
      for (int row = 0; row < out_.rows; ++row) {
        for (int column = 0; column < out_.columns; ++column) {
          for (int down = 0; down < window_; ++down, to += run) {
            std::memcpy(to, from + ((row + down) * in_.columns + column) * in_.channels,
                        sizeof(T) * static_cast<std::size_t>(run));
          }
        }
      }
    }
    z_.noalias() = patches_ * W_;
    z_.rowwise() += b_;
    z_ = z_.array().max(T{0});
    Eigen::Index place = 0;
    for (int picture = 0; picture < batch_; ++picture) {
      for (int row = 0; row + 1 < out_.rows; row += 2) {
        for (int column = 0; column + 1 < out_.columns; column += 2, ++place) {
          const Eigen::Index first = point(picture, row, column);
          for (int channel = 0; channel < out_.channels; ++channel) {
            Eigen::Index at = first;
            for (const Eigen::Index other :
                 {first + 1, first + out_.columns, first + out_.columns + 1}) {
              if (z_(other, channel) > z_(at, channel)) at = other;
            }
            largest_(place, channel) = static_cast<int>(at);
            pooled_(place, channel) = z_(at, channel);
          }
        }
      }
    }
  }

  /// @param dpooled the gradient of what was pooled
  /// @param dx where that of what came in goes; null where nobody needs it
  void reverse(const T* dpooled, T* dx) {
    dz_.setZero();
    for (Eigen::Index place = 0; place < pooled_.rows(); ++place) {
      for (Eigen::Index channel = 0; channel < pooled_.cols(); ++channel)
        dz_(largest_(place, channel), channel) = *dpooled++;
    }
    dz_.array() *= (z_.array() > T{0}).template cast<T>();
    dW_.noalias() = patches_.transpose() * dz_;
    db_ = dz_.colwise().sum();
    if (dx == nullptr) return;
    dpatches_.noalias() = dz_ * W_.transpose();
    std::fill_n(dx, static_cast<Eigen::Index>(batch_) * in_.points() * in_.channels, T{0});
    const int run = window_ * in_.channels;
    const T* from = dpatches_.data();
    for (int picture = 0; picture < batch_; ++picture) {
      T* const to = dx + static_cast<Eigen::Index>(picture) * in_.points() * in_.channels;
      for (int row = 0; row < out_.rows; ++row) {
        for (int column = 0; column < out_.columns; ++column) {
          for (int down = 0; down < window_; ++down, from += run) {
            T* const line = to + ((row + down) * in_.columns + column) * in_.channels;
            for (int at = 0; at < run; ++at)
              line[at] += from[at];
          }
        }
      }
    }
  }

  void update(T rate) {
    W_ -= rate * dW_;
    b_ -= rate * db_;
  }

 private:
  [[nodiscard]] Eigen::Index point(int picture, int row, int column) const {
    return (static_cast<Eigen::Index>(picture) * out_.rows + row) * out_.columns + column;
  }

  int batch_;
  Size in_;
  int window_;
  Size out_;
  Matrix<T> W_;
  Vector<T> b_;
  Matrix<T> patches_;
  Matrix<T> z_;
  Matrix<T> dz_;
  Matrix<T> pooled_;
  Eigen::Matrix<int, Eigen::Dynamic, Eigen::Dynamic, Eigen::RowMajor> largest_;
  Matrix<T> dW_;
  Vector<T> db_;
  Matrix<T> dpatches_;
};

template <class T>
class Looking {
 public:
  Looking(int batch, const Numbers& numbers)
      : x_(Eigen::Map<const Matrix<double>>(numbers.x.data(), batch, 784).template cast<T>()),
        first_(batch, {28, 28, 1}, 5, numbers.W[0]),
        second_(batch, first_.pooled(), 5, numbers.W[1]) {
    for (const double number : numbers.y)
      classes_.push_back(static_cast<int>(number));
    const Eigen::Index depth = second_.result().size() / batch;
    W_ = Eigen::Map<const Matrix<double>>(numbers.W[2].data(), depth, 10).template cast<T>();
    b_ = Vector<T>::Zero(10);
    z_.resize(batch, 10);
    dz_.resize(batch, 10);
    dflat_.resize(batch, depth);
    dfirst_.resize(first_.result().rows(), first_.result().cols());
  }

  double step(T rate) {
    first_.forward(x_.data());
    second_.forward(first_.result().data());
    const Eigen::Map<const Matrix<T>> flat(second_.result().data(), dflat_.rows(), dflat_.cols());
    z_.noalias() = flat * W_;
    z_.rowwise() += b_;
    T cost{0};
    const auto rows = static_cast<T>(z_.rows());
    for (Eigen::Index row = 0; row < z_.rows(); ++row) {
      const T most = z_.row(row).maxCoeff();
      dz_.row(row) = (z_.row(row).array() - most).exp();
      const T total = dz_.row(row).sum();
      const int truth = classes_[static_cast<std::size_t>(row)];
      cost += most + std::log(total) - z_(row, truth);
      dz_.row(row) /= total * rows;
      dz_(row, truth) -= T{1} / rows;
    }
    dflat_.noalias() = dz_ * W_.transpose();
    dW_.noalias() = flat.transpose() * dz_;
    second_.reverse(dflat_.data(), dfirst_.data());
    first_.reverse(dfirst_.data(), nullptr);
    W_ -= rate * dW_;
    b_ -= rate * dz_.colwise().sum();
    first_.update(rate);
    second_.update(rate);
    return static_cast<double>(cost / rows);
  }

 private:
  Matrix<T> x_;
  Layer<T> first_;
  Layer<T> second_;
  std::vector<int> classes_;
  Matrix<T> W_;
  Vector<T> b_;
  Matrix<T> z_;
  Matrix<T> dz_;
  Matrix<T> dflat_;
  Matrix<T> dfirst_;
  Matrix<T> dW_;
};

template <class T>
std::function<double()> looking(int batch, const Numbers& numbers, double rate) {
  const auto all = std::make_shared<Looking<T>>(batch, numbers);
  return [all, rate] { return all->step(static_cast<T>(rate)); };
}

}  // namespace

std::function<double()> convolutional_steps(int batch, bool in_single, const Numbers& numbers,
                                            double rate) {
  return in_single ? looking<float>(batch, numbers, rate) : looking<double>(batch, numbers, rate);
}

}  // namespace by_hand
