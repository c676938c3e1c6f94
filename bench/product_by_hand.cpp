#include <Eigen/Core>

#include "by_hand.hpp"

namespace by_hand {

void product_on_two_threads(const float* a, const float* b, float* to, int size) {
  using Matrix = Eigen::Matrix<float, Eigen::Dynamic, Eigen::Dynamic, Eigen::RowMajor>;
  Eigen::setNbThreads(2);
  const Eigen::Map<const Matrix> left(a, size, size);
  const Eigen::Map<const Matrix> right(b, size, size);
  Eigen::Map<Matrix>(to, size, size).noalias() = left * right;
}

}  // namespace by_hand
