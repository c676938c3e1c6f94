#include "by_hand.hpp"

#include <Eigen/Core>
#include <algorithm>
#include <cmath>

namespace by_hand {
namespace {

template <class T>
using Matrix = Eigen::Matrix<T, Eigen::Dynamic, Eigen::Dynamic, Eigen::RowMajor>;
template <class T>
using Vector = Eigen::Matrix<T, 1, Eigen::Dynamic>;

template <class T>
Matrix<T> matrix(const std::vector<double>& numbers, Eigen::Index columns) {
  const Eigen::Index rows = static_cast<Eigen::Index>(numbers.size()) / columns;
  return Eigen::Map<const Matrix<double>>(numbers.data(), rows, columns).template cast<T>();
}

template <class T, class From, class To>
void bend_all(Bend bend, const From& from, To&& to) {
  switch (bend) {
    case Bend::tanh:
      to = from.array().tanh();
      return;
    case Bend::relu:
      to = from.array().max(T{0});
      return;
    case Bend::sigmoid:
      to = (T{1} + (-from.array()).exp()).inverse();
      return;
  }
}

template <class T>
class StepsOf final : public Steps {
 public:
  StepsOf(const Task& task, const Numbers& numbers)
      : task_(task), all_x_(matrix<T>(numbers.x, task.sizes.front())), x_(all_x_) {
    if (task.loss == Loss::cross_entropy) {
      for (const double number : numbers.y)
        all_classes_.push_back(static_cast<int>(number));
      classes_ = all_classes_;
    } else {
      all_targets_ = matrix<T>(numbers.y, task.sizes.back());
      targets_ = all_targets_;
    }
    for (std::size_t layer = 0; layer < numbers.W.size(); ++layer) {
      const Matrix<T> W = matrix<T>(numbers.W[layer], task.sizes[layer + 1]);
      layers_.push_back({.W = W,
                         .b = Vector<T>::Zero(W.cols()),
                         .dW = W,
                         .db = Vector<T>(W.cols()),
                         .z = Matrix<T>(x_.rows(), W.cols()),
                         .dz = Matrix<T>(x_.rows(), W.cols())});
    }
  }

  double step() override {
    for (std::size_t l = 0; l < layers_.size(); ++l) {
      Layer& layer = layers_[l];
      layer.z.noalias() = input(l) * layer.W;
      layer.z.rowwise() += layer.b;
      if (l + 1 < layers_.size()) bend_all<T>(task_.bend, layer.z, layer.z.array());
    }
    const double cost = judge(layers_.back());
    for (std::size_t l = layers_.size(); l-- > 0;) {
      Layer& layer = layers_[l];
      layer.dW.noalias() = input(l).transpose() * layer.dz;
      layer.db = layer.dz.colwise().sum();
      if (l == 0) continue;
      Layer& before = layers_[l - 1];
      before.dz.noalias() = layer.dz * layer.W.transpose();
      times_slope(before);
    }
    const T rate = static_cast<T>(task_.rate);
    for (Layer& layer : layers_) {
      layer.W -= rate * layer.dW;
      layer.b -= rate * layer.db;
    }
    return cost;
  }

  double epoch(const Order& order) override {
    const std::vector<std::int64_t> rows = order();
    const auto batch = static_cast<std::size_t>(task_.batch);
    double cost = 0.0;
    for (std::size_t from = 0; from < rows.size(); from += batch) {
      const std::size_t count = std::min(batch, rows.size() - from);
      x_.resize(static_cast<Eigen::Index>(count), all_x_.cols());
      classes_.resize(count);
      if (all_targets_.size() > 0)
        targets_.resize(static_cast<Eigen::Index>(count), all_targets_.cols());
      for (std::size_t at = 0; at < count; ++at) {
        const std::int64_t row = rows[from + at];
        x_.row(static_cast<Eigen::Index>(at)) = all_x_.row(row);
        if (all_targets_.size() > 0) {
          targets_.row(static_cast<Eigen::Index>(at)) = all_targets_.row(row);
        } else {
          classes_[at] = all_classes_[static_cast<std::size_t>(row)];
        }
      }
      for (Layer& layer : layers_) {
        layer.z.resize(x_.rows(), layer.W.cols());
        layer.dz.resize(x_.rows(), layer.W.cols());
      }
      cost = step();
    }
    return cost;
  }

 private:
  struct Layer {
    Matrix<T> W;
    Vector<T> b;
    Matrix<T> dW;
    Vector<T> db;
    Matrix<T> z;   ///< what comes out
    Matrix<T> dz;  ///< and its gradient
  };

  const Matrix<T>& input(std::size_t layer) const { return layer == 0 ? x_ : layers_[layer - 1].z; }

  void times_slope(Layer& layer) const {
    const auto z = layer.z.array();
    switch (task_.bend) {
      case Bend::tanh:
        layer.dz.array() *= T{1} - z.square();
        return;
      case Bend::relu:
        layer.dz.array() *= (z > T{0}).template cast<T>();
        return;
      case Bend::sigmoid:
        layer.dz.array() *= z * (T{1} - z);
        return;
    }
  }

  double judge(Layer& last) const {
    const auto rows = static_cast<T>(last.z.rows());
    if (task_.loss == Loss::half_mean_squared) {
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

  Task task_;
  Matrix<T> all_x_;
  Matrix<T> all_targets_;
  std::vector<int> all_classes_;
  Matrix<T> x_;
  Matrix<T> targets_;
  std::vector<int> classes_;
  std::vector<Layer> layers_;
};

/// A training run with Adam, with two layers.
class Loop {
 public:
  struct Part {
    Matrix<double> x;
    std::vector<int> classes;
  };

  Loop(Part train, Part validation, const Matrix<double>& hidden, const Matrix<double>& output,
       double rate)
      : train_(std::move(train)),
        validation_(std::move(validation)),
        hidden_(hidden),
        output_(output),
        rate_(rate) {}

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
    count_right(part.classes);
    return judge(part.classes) / static_cast<double>(part.x.rows());
  }

  void count_right(const std::vector<int>& classes) {
    for (Eigen::Index row = 0; row < z_.rows(); ++row) {
      Eigen::Index answer = 0;
      z_.row(row).maxCoeff(&answer);
      right_ += answer == classes[static_cast<std::size_t>(row)] ? 1 : 0;
    }
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
    count_right(classes_);
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

template <class T>
void bend_list(Bend which, const std::vector<T>& from, std::vector<T>& to) {
  using List = Eigen::Array<T, Eigen::Dynamic, 1>;
  const auto count = static_cast<Eigen::Index>(from.size());
  Eigen::Map<List> bent(to.data(), count);
  bend_all<T>(which, Eigen::Map<const List>(from.data(), count), bent);
}

}  // namespace

std::unique_ptr<Steps> steps(const Task& task, const Numbers& numbers) {
  if (task.in_single) return std::make_unique<StepsOf<float>>(task, numbers);
  return std::make_unique<StepsOf<double>>(task, numbers);
}

double run(const Rows& train, const Rows& validation, const std::vector<double>& hidden,
           const std::vector<double>& output, int units, double rate, int epochs, int batch,
           const Order& order) {
  const Eigen::Index features = static_cast<Eigen::Index>(hidden.size()) / units;
  const auto part = [&](const Rows& rows) {
    return Loop::Part{matrix<double>(rows.x, features), rows.classes};
  };
  const Eigen::Index classes = static_cast<Eigen::Index>(output.size()) / units;
  Loop loop(part(train), part(validation), matrix<double>(hidden, units),
            matrix<double>(output, classes), rate);
  return loop.run(epochs, batch, order);
}

void bend(Bend which, const std::vector<float>& from, std::vector<float>& to) {
  bend_list(which, from, to);
}
void bend(Bend which, const std::vector<double>& from, std::vector<double>& to) {
  bend_list(which, from, to);
}

}  // namespace by_hand
