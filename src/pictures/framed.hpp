#pragma once

#include <algorithm>
#include <cstddef>
#include <cstdint>
#include <vector>

#include "lattice/tensor/tensor.hpp"
#include "pictures/window_kernels.hpp"

/// Pictures among zeros.
namespace lattice::kernels {

/// Some numbers for each thread, to work in.
class Room {
 public:
  Room(int threads, std::int64_t count, Precision precision) {
    if (count == 0) return;
    for (int thread = 0; thread < threads; ++thread)
      rooms_.push_back(Tensor::unfilled(Shape{count}, precision));
  }

  template <class T>
  [[nodiscard]] T* of(int thread) {
    return rooms_.empty() ? nullptr : rooms_[static_cast<std::size_t>(thread)].writable<T>();
  }

 private:
  std::vector<Tensor> rooms_ = {};
};

/// A part of the plane in which a picture lies among zeros: from `top` rows and `left` columns
/// before its first number (after it, where they are below 0).
struct Frame {
  std::int64_t top = 0;
  std::int64_t left = 0;
  std::int64_t rows = 1;
  std::int64_t columns = 1;

  /// What lies under the windows at all places.
  static Frame under(const WindowPlaces& places) {
    const auto length = [](const WindowAxis& axis) {
      return (axis.places - 1) * axis.stride + axis.window;
    };
    return {.top = places.down.before,
            .left = places.across.before,
            .rows = length(places.down),
            .columns = length(places.across)};
  }
};

/// Pictures one after another, of which a frame is taken.
template <class T>
class Framed {
 public:
  Framed(const T* numbers, std::int64_t rows, std::int64_t columns, std::int64_t channels,
         std::int64_t channels_to, const Frame& frame)
      : numbers_(numbers),
        rows_(rows),
        columns_(columns),
        channels_(channels),
        channels_to_(channels_to),
        frame_(frame),
        is_there_(channels == channels_to && frame.top <= 0 && frame.left <= 0 &&
                  frame.rows - frame.top <= rows && frame.columns - frame.left <= columns) {}

  /// How many numbers one takes that has to be copied; 0 when they are used where they are.
  [[nodiscard]] std::int64_t room() const {
    return is_there_ ? 0 : frame_.rows * frame_.columns * channels_to_;
  }

  /// From one row to the next.
  [[nodiscard]] std::int64_t row_step() const {
    return (is_there_ ? columns_ : frame_.columns) * channels_to_;
  }

  /// The frame of a picture, whether it had to be copied to `room` or not.
  [[nodiscard]] const T* of(std::int64_t picture, T* room) const {
    const T* const from = numbers_ + picture * rows_ * columns_ * channels_;
    if (is_there_) return from - (frame_.top * columns_ + frame_.left) * channels_;
    T* to = room;
    const std::int64_t step = frame_.columns * channels_to_;
    const std::int64_t first = std::clamp<std::int64_t>(frame_.left, 0, frame_.columns);
    const std::int64_t skipped = std::max<std::int64_t>(-frame_.left, 0);
    const std::int64_t taken = std::clamp<std::int64_t>(
        frame_.columns - first, 0, std::max(columns_ - skipped, std::int64_t{0}));
    for (std::int64_t row = 0; row < frame_.rows; ++row, to += step) {
      const std::int64_t of_picture = row - frame_.top;
      if (of_picture < 0 || of_picture >= rows_) {
        std::fill_n(to, step, T{0});
        continue;
      }
      const T* const row_from = from + (of_picture * columns_ + skipped) * channels_;
      std::fill_n(to, first * channels_to_, T{0});
      T* end = to + first * channels_to_;
      if (channels_ == channels_to_) {
        end = std::copy_n(row_from, taken * channels_, end);
      } else {
        for (std::int64_t column = 0; column < taken; ++column) {
          end = std::copy_n(row_from + column * channels_, channels_, end);
          end = std::fill_n(end, channels_to_ - channels_, T{0});
        }
      }
      std::fill(end, to + step, T{0});
    }
    return room;
  }

 private:
  const T* numbers_;
  std::int64_t rows_;
  std::int64_t columns_;
  std::int64_t channels_;
  std::int64_t channels_to_;  ///< with zeros behind each number's channels
  Frame frame_;
  bool is_there_;
};

}  // namespace lattice::kernels
