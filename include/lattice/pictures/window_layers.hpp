#pragma once

#include <cstdint>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

#include "lattice/network/layer.hpp"
#include "lattice/pictures/window.hpp"

/// The layers that networks for pictures are made of. An example is [row × column × channel].
namespace lattice {

/// Which channels that come in feed which of those that go out.
class Connections {
 public:
  /// Each feeds all.
  [[nodiscard]] static Connections all() { return {}; }

  /// For each channel that goes out those that feed it: `{{0, 1}, {1, 2}, {0, 2}}`.
  [[nodiscard]] static Connections listed(std::vector<std::vector<std::int64_t>> sources);

  /// So many for each channel that goes out, drawn from a seed of its own: the same network has the
  /// same connections, whatever its weights start from.
  [[nodiscard]] static Connections at_random(std::int64_t sources, std::uint64_t seed = 1);

  [[nodiscard]] bool are_all() const { return listed_.empty() && drawn_ == 0; }

  /// For each connection the channel in and the channel out.
  /// @throws SettingError when the list is not for so many channels.
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

/// A kernel for each channel that goes out, which goes over the picture: x ∗ kernel + bias, with
/// `kernel` [row × column × channel × channel] and `bias` [channel]. Where not all channels are
/// connected, `kernel` is [row × column × connection], and the connections are on the worksheet as
/// `table`.
struct Convolution {
  std::int64_t outputs = 1;  ///< channels that go out, 1 to 1 000 000
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

/// The largest number under each place of a window, channel by channel.
struct MaxPooling {
  Window window = {.rows = 2, .columns = 2, .stride = 2};
  bool is_whole = false;  ///< one window over the whole picture: a number for each channel is left

  [[nodiscard]] static std::string_view kind() { return "maximum"; }
  [[nodiscard]] std::string text() const;
  [[nodiscard]] Shape shape(const Shape& example) const;
  [[nodiscard]] static std::vector<WeightNeed> weights(const Shape&) { return {}; }
  [[nodiscard]] Line forward(const Line& x, Pass& pass) const;
};

/// The mean of the numbers under each place of a window, channel by channel.
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
