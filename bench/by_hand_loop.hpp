#pragma once

#include <Eigen/Core>
#include <algorithm>
#include <cmath>
#include <cstdint>
#include <functional>
#include <vector>

#include "by_hand.hpp"

namespace by_hand {

/// A whole training run as one writes it with Eigen: a hidden layer of tanh, cross-entropy, Adam,
/// minibatches in a new order each epoch, and after each epoch a look at all rows of two parts.
/// Every buffer is made once.
class Loop {
 public:
  struct Part {
    Matrix<double> x;
    std::vector<int> classes;
  };

  /// The row numbers of the train part in the order of the next epoch.
  using Order = std::function<std::vector<std::int64_t>()>;

  Loop(Part train, Part validation, Matrix<double> hidden, Matrix<double> output, double rate)
      : train_(std::move(train)),
        validation_(std::move(validation)),
        hidden_(std::move(hidden)),
        output_(std::move(output)),
        rate_(rate) {}

  /// Trains, and gives the loss of the train part at the end.
  double run(int epochs, Eigen::Index batch, const Order& order) {
    x_.resize(batch, train_.x.cols());
    double loss = look(train_) + 0.0 * look(validation_);
    for (int epoch = 0; epoch < epochs; ++epoch) {
      const std::vector<std::int64_t> rows = order();
      for (std::size_t from = 0; from < rows.size(); from += static_cast<std::size_t>(batch))
        step(rows, from, std::min(static_cast<std::size_t>(batch), rows.size() - from));
      loss = look(train_);
      watched_ = look(validation_);
    }
    return loss;
  }

  [[nodiscard]] double watched() const { return watched_; }

 private:
  struct Layer {
    explicit Layer(Matrix<double> start)
        : W(std::move(start)),
          b(Vector<double>::Zero(W.cols())),
          dW(W),
          db(b),
          mW(Matrix<double>::Zero(W.rows(), W.cols())),
          vW(mW),
          mb(b),
          vb(b) {}

    Matrix<double> W;
    Vector<double> b;
    Matrix<double> dW;
    Vector<double> db;
    Matrix<double> mW;
    Matrix<double> vW;
    Vector<double> mb;
    Vector<double> vb;
  };

  void forward(const Eigen::Ref<const Matrix<double>>& x) {
    h_.noalias() = x * hidden_.W;
    h_.rowwise() += hidden_.b;
    h_ = h_.array().tanh();
    z_.noalias() = h_ * output_.W;
    z_.rowwise() += output_.b;
  }

  /// The loss of each row summed up; z becomes softmax(z) less 1 at the true class.
  double judge(const std::vector<int>& classes) {
    double total = 0.0;
    for (Eigen::Index row = 0; row < z_.rows(); ++row) {
      auto scores = z_.row(row);
      const int truth = classes[static_cast<std::size_t>(row)];
      const double most = scores.maxCoeff();
      const double score = scores[truth];
      scores = (scores.array() - most).exp();
      const double sum = scores.sum();
      total += most + std::log(sum) - score;
      scores /= sum;
      scores[truth] -= 1.0;
    }
    return total;
  }

  double look(const Part& part) {
    forward(part.x);
    for (Eigen::Index row = 0; row < z_.rows(); ++row) {
      Eigen::Index answer = 0;
      z_.row(row).maxCoeff(&answer);
      right_ += answer == part.classes[static_cast<std::size_t>(row)] ? 1 : 0;
    }
    return judge(part.classes) / static_cast<double>(part.x.rows());
  }

  void step(const std::vector<std::int64_t>& rows, std::size_t from, std::size_t count) {
    classes_.resize(count);
    for (std::size_t at = 0; at < count; ++at) {
      const auto row = static_cast<Eigen::Index>(rows[from + at]);
      x_.row(static_cast<Eigen::Index>(at)) = train_.x.row(row);
      classes_[at] = train_.classes[static_cast<std::size_t>(row)];
    }
    const auto x = x_.topRows(static_cast<Eigen::Index>(count));
    forward(x);
    judge(classes_);
    z_ /= static_cast<double>(count);
    output_.dW.noalias() = h_.transpose() * z_;
    output_.db = z_.colwise().sum();
    dh_.noalias() = z_ * output_.W.transpose();
    dh_.array() *= 1.0 - h_.array().square();
    hidden_.dW.noalias() = x.transpose() * dh_;
    hidden_.db = dh_.colwise().sum();
    ++steps_;
    update(hidden_);
    update(output_);
  }

  void update(Layer& layer) const {
    adam(layer.W, layer.dW, layer.mW, layer.vW);
    adam(layer.b, layer.db, layer.mb, layer.vb);
  }

  template <class M>
  void adam(M& w, const M& g, M& m, M& v) const {
    m = 0.9 * m + (1.0 - 0.9) * g;
    v = 0.999 * v.array() + (1.0 - 0.999) * g.array().square();
    const double first = 1.0 - std::pow(0.9, steps_);
    const double second = 1.0 - std::pow(0.999, steps_);
    w.array() -= rate_ * (m.array() / first) / ((v.array() / second).sqrt() + 1e-8);
  }

  Part train_;
  Part validation_;
  Layer hidden_;
  Layer output_;
  double rate_;
  double watched_ = 0.0;
  int steps_ = 0;
  std::int64_t right_ = 0;
  Matrix<double> x_;
  Matrix<double> h_;
  Matrix<double> dh_;
  Matrix<double> z_;
  std::vector<int> classes_;
};

}  // namespace by_hand
