#include "by_hand.hpp"

namespace by_hand {

void product_on_two_threads(const float* a, const float* b, float* to, int size) {
  Eigen::setNbThreads(2);
  const Eigen::Map<const Matrix<float>> left(a, size, size);
  const Eigen::Map<const Matrix<float>> right(b, size, size);
  Eigen::Map<Matrix<float>>(to, size, size).noalias() = left * right;
}

}  // namespace by_hand
