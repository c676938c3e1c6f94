#pragma once

#include <cstdint>
#include <string>
#include <string_view>
#include <vector>

#include "lattice/network/layer.hpp"

/// The layers that bring numbers to a common size on their way.
namespace lattice {

/// Over what numbers are normalised.
enum class NormalisedOver : std::uint8_t {
  minibatch,  ///< each feature or channel over the examples, and the places of their pictures
  example     ///< all numbers of each example by themselves
};

/// Brings numbers to a mean of 0 and a spread of 1, and from there to a mean and a spread of their
/// own, which are learnt: `shift` and `scale`, one a feature or channel.
///
/// Over a minibatch, each feature or channel has a mean and a variance of the minibatch while the
/// network learns: `norm.batch-mean` and `norm.batch-variance` on the worksheet. In use there may
/// be a single example, so what it is normalised by then is kept: `mean` and `variance` run after
/// those of the minibatches, `decay` of what they were and the rest of the new ones. The variance
/// is the mean of squared distances, in both.
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
