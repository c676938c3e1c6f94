#pragma once

#include <algorithm>
#include <array>
#include <cstddef>
#include <cstdint>
#include <utility>

#include "lattice/tensor/tensor.hpp"
#include "tensor/lanes.hpp"

/// Channels in blocks that fill the registers of this machine.
namespace lattice::kernels {

/// As many lanes are worked together as fill two registers: each number of a picture is then loaded
/// once for two multiplications.
template <class T>
inline constexpr int widest = 2 * most_lanes<T>;

/// Numbers side by side, in the registers that they take.
template <class T, int lanes>
class Wide {
 public:
  static constexpr int of_one = std::min(lanes, most_lanes<T>);
  static constexpr int count = lanes / of_one;

  void load(const T* from) {
    each([&]<int part>() { kernels::load<of_one>(parts_[part], from + part * of_one); });
  }
  void store(T* to) const {
    each([&]<int part>() { kernels::store<of_one>(to + part * of_one, parts_[part]); });
  }
  void add_product(T number, const Wide& others) {
    each([&]<int part>() { parts_[part] += number * others.parts_[part]; });
  }

 private:
  template <class Work>
  static void each(const Work& work) {
    [&]<int... part>(std::integer_sequence<int, part...>) {
      (work.template operator()<part>(), ...);
    }
    (std::make_integer_sequence<int, count>());
  }

  std::array<Lanes<T, of_one>, static_cast<std::size_t>(count)> parts_;
};

/// So many sums of this many lanes are kept in registers while they are added up.
template <class T, int lanes>
inline constexpr std::size_t most_sums = [] {
  constexpr int for_others = 4;
  return static_cast<std::size_t>(std::min((registers - for_others) / Wide<T, lanes>::count, 12));
}();

/// Where pieces begin that are as long as each other, or by one longer, and at most so long.
struct Pieces {
  Pieces(std::int64_t extent_, std::int64_t most)
      : extent(extent_), count((extent + most - 1) / most) {}

  [[nodiscard]] std::int64_t start(std::int64_t piece) const { return extent * piece / count; }
  [[nodiscard]] std::int64_t length(std::int64_t piece) const {
    return start(piece + 1) - start(piece);
  }

  std::int64_t extent;
  std::int64_t count;
};

/// Calls `work` with the numbers from 0 to n − 1 in its type, for an n of 1 to `most` that is only
/// known when the program runs.
template <std::size_t most, class Work>
void with_numbers_to(std::int64_t n, const Work& work) {
  if (n == static_cast<std::int64_t>(most)) return work(std::make_index_sequence<most>());
  if constexpr (most > 1) with_numbers_to<most - 1>(n, work);
}

/// Channels in blocks of lanes; the last block may have lanes to spare.
template <class T>
struct ChannelBlocks {
  explicit ChannelBlocks(std::int64_t channels_) : channels(channels_), padded(room(channels_)) {}

  /// As many numbers as the blocks hold.
  static std::int64_t room(std::int64_t channels) {
    std::int64_t rest = channels % most_lanes<T>;
    std::int64_t last = rest == 0 ? 0 : 1;
    while (last < rest)
      last *= 2;
    return channels - rest + last;
  }

  /// Calls `work.template operator()<lanes>(first channel, how many of them there are)`.
  template <class Work>
  void each(const Work& work) const {
    in_lanes<T, widest<T>>(padded, [&]<int lanes>(std::int64_t first) {
      work.template operator()<lanes>(first, std::min<std::int64_t>(lanes, channels - first));
    });
  }

  std::int64_t channels;
  std::int64_t padded;
};

/// A kernel as it is worked with: for each block of channels that go out, a row of lanes for each
/// position of the window and channel that comes in.
template <class T>
class Panels {
 public:
  /// How the kernel's numbers lie: from one channel that goes out to the next, and from one that
  /// comes in to the next, of which there are so many.
  struct Steps {
    std::int64_t out = 1;
    std::int64_t in = 1;
    std::int64_t channels_in = 1;
  };

  /// @param channels that go out
  /// @param of_position where the kernel's numbers for a position of the window begin
  template <class OfPosition>
  Panels(std::int64_t positions, std::int64_t channels, Precision precision, const Steps& steps,
         OfPosition of_position)
      : blocks_(channels),
        depth_(positions * steps.channels_in),
        numbers_(Tensor::unfilled(Shape{std::max<std::int64_t>(depth_ * blocks_.padded, 1)},
                                  precision)) {
    T* to = numbers_.writable<T>();
    blocks_.each([&]<int lanes>(std::int64_t first, std::int64_t live) {
      if (live < lanes) std::fill_n(to, depth_ * lanes, T{0});
      for (std::int64_t position = 0; position < positions; ++position) {
        const T* const from = of_position(position) + first * steps.out;
        fill<lanes>(steps, from, live, to);
        to += lanes * steps.channels_in;
      }
    });
  }

  [[nodiscard]] const ChannelBlocks<T>& blocks() const { return blocks_; }
  [[nodiscard]] const T* of(std::int64_t first) const {
    return numbers_.data<T>() + first * depth_;
  }

 private:
  /// Writes what belongs to a position and a block of channels, of which so many are there.
  template <int lanes>
  static void fill(const Steps& steps, const T* from, std::int64_t live, T* to) {
    if (steps.out == 1) {
      for (std::int64_t in = 0; in < steps.channels_in; ++in)
        std::copy_n(from + in * steps.in, live, to + in * lanes);
      return;
    }
    for (std::int64_t lane = 0; lane < live; ++lane) {
      const T* const channel = from + lane * steps.out;
      for (std::int64_t in = 0; in < steps.channels_in; ++in)
        to[in * lanes + lane] = channel[in * steps.in];
    }
  }

  ChannelBlocks<T> blocks_;
  std::int64_t depth_;
  Tensor numbers_;
};

}  // namespace lattice::kernels
