#pragma once

#include <cstdint>
#include <string>
#include <string_view>
#include <vector>

#include "lattice/network/layer.hpp"

/// Normalisation layers.
namespace lattice {

/// The numbers over which mean and variance are taken.
enum class NormalisedOver : std::uint8_t {
  minibatch,  ///< each feature or channel over the examples, and the pixels of pictures
  example     ///< all numbers of each example
};

/// Normalises numbers to mean 0 and standard deviation 1, then applies a trained `scale` and
/// `shift` for each feature or channel.
///
/// Over a minibatch, training uses the mean and variance of each feature or channel in the
/// minibatch: `norm.batch-mean` and `norm.batch-variance` on the worksheet. Evaluation, where there
/// may be a single example, uses the running statistics `mean` and `variance`: with each update,
/// `decay` times their old value plus 1 − decay times that of the minibatch. Both variances are
/// over n.
/// Source: Ioffe and Szegedy, 2015; over an example, Ba, Kiros and Hinton, 2016.
struct Normalise {
  NormalisedOver over = NormalisedOver::minibatch;
  double decay = 0.9;     ///< of the running statistics with each minibatch: 0 or more, below 1
  double epsilon = 1e-5;  ///< added to variances

  [[nodiscard]] static std::string_view kind() { return "normalise"; }
  [[nodiscard]] std::string text() const;
  [[nodiscard]] Shape shape(const Shape& example) const;
  [[nodiscard]] std::vector<WeightNeed> weights(const Shape& example) const;
  [[nodiscard]] std::int64_t written(const Shape& example) const {
    constexpr std::int64_t figures = 2;  // mean and variance
    return example.count() + (over == NormalisedOver::example ? figures : 0);
  }
  [[nodiscard]] Line forward(const Line& x, Pass& pass) const;
};

}  // namespace lattice
