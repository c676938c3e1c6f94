#pragma once

#include <cstdint>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

#include "lattice/network/layer.hpp"
#include "lattice/pictures/window.hpp"

/// The layers for pictures. An example is [row × column × channel].
namespace lattice {

/// Which input channels feed which output channels.
class Connections {
 public:
  /// Each input channel feeds all output channels.
  [[nodiscard]] static Connections all() { return {}; }

  /// For each output channel the input channels that feed it: `{{0, 1}, {1, 2}, {0, 2}}`.
  [[nodiscard]] static Connections listed(std::vector<std::vector<std::int64_t>> sources);

  /// This many for each output channel, drawn from a seed of their own, so that the connections do
  /// not depend on the seed of the weights.
  [[nodiscard]] static Connections at_random(std::int64_t sources, std::uint64_t seed = 1);

  [[nodiscard]] bool are_all() const { return listed_.empty() && drawn_ == 0; }

  /// For each connection its input and output channel.
  /// @throws SettingError when the list does not fit the numbers of channels.
  using Pair = std::pair<std::int64_t, std::int64_t>;
  [[nodiscard]] std::vector<Pair> pairs(std::int64_t in, std::int64_t out) const;

  /// As in a blueprint: `from 0+1 1+2 0+2`, `from 2 at random seed 7`; empty where all feed all.
  [[nodiscard]] std::string text() const;

  friend bool operator==(const Connections&, const Connections&) = default;

 private:
  std::vector<std::vector<std::int64_t>> listed_ = {};
  std::int64_t drawn_ = 0;
  std::uint64_t seed_ = 1;
};

/// A convolution: x ∗ kernel + bias, with `kernel` [row × column × channel in × channel out] and
/// `bias` [channel]. If not all channels are connected, `kernel` is [row × column × connection],
/// and the connections are on the worksheet as `table`.
struct Convolution {
  std::int64_t outputs = 1;  ///< output channels, 1 to 1 000 000
  Window window = {.rows = 3, .columns = 3};
  Connections from = Connections::all();
  bool has_bias = true;
  Start start = Start::xavier();      ///< of the kernel
  Start bias_start = Start::zeros();  ///< of the bias

  [[nodiscard]] static std::string_view kind() { return "conv"; }
  [[nodiscard]] std::string text() const;
  [[nodiscard]] Shape shape(const Shape& example) const;
  [[nodiscard]] std::vector<WeightNeed> weights(const Shape& example) const;
  [[nodiscard]] std::int64_t multiplications(const Shape& example) const;
  [[nodiscard]] Line forward(const Line& x, Pass& pass) const;
};

/// The maximum in each window, channel by channel.
struct MaxPooling {
  Window window = {.rows = 2, .columns = 2, .stride = 2};
  bool is_whole = false;  ///< one window over the whole picture: one number for each channel

  [[nodiscard]] static std::string_view kind() { return "maximum"; }
  [[nodiscard]] std::string text() const;
  [[nodiscard]] Shape shape(const Shape& example) const;
  [[nodiscard]] static std::vector<WeightNeed> weights(const Shape&) { return {}; }
  [[nodiscard]] Line forward(const Line& x, Pass& pass) const;
};

/// The mean of each window, channel by channel.
struct MeanPooling {
  Window window = {.rows = 2, .columns = 2, .stride = 2};
  bool is_whole = false;  ///< as above

  [[nodiscard]] static std::string_view kind() { return "average"; }
  [[nodiscard]] std::string text() const;
  [[nodiscard]] Shape shape(const Shape& example) const;
  [[nodiscard]] static std::vector<WeightNeed> weights(const Shape&) { return {}; }
  [[nodiscard]] Line forward(const Line& x, Pass& pass) const;
};

}  // namespace lattice
