#pragma once

#include "lattice/network/weights.hpp"
#include "lattice/worksheet/explain.hpp"
#include "lattice/worksheet/reverse_sweep.hpp"

namespace lattice {

/// Plain gradient descent: every weight goes a little way against its gradient.
struct Descent {
  double rate = 0.01;  ///< the learning rate: how far, as a multiple of the gradient; above 0

  /// The rule, for one weight: generic in the number type, so that the same text updates tensors
  /// and explains the update.
  static auto new_weight(const auto& weight, const auto& gradient, const auto& rate) {
    return weight - rate * gradient;
  }

  /// @throws SettingError unless the rate is a number above 0.
  void check() const;

  /// The tensor after one update. @throws SettingError for an impossible rate, ShapeError when
  /// weight and gradient differ in shape.
  [[nodiscard]] Tensor updated(const Tensor& weight, const Tensor& gradient) const;

  /// Updates every weight that has a gradient.
  void update(Weights& weights, const Gradients& gradients) const;

  /// Explains one number of a weight after one update, from the weight before and its gradient.
  /// @param line the weight's line in the worksheet that gave the gradient
  /// @throws IndexError when the weight has no such place.
  [[nodiscard]] Explanation explain_update(const Line& line, const Tensor& weight,
                                           const Tensor& gradient, const Index& at) const;
};

}  // namespace lattice
