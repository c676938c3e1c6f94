#pragma once

#include <cstdint>
#include <string>

#include "lattice/tensor/shape.hpp"

namespace lattice {

/// What lies around a picture where a window reaches over its edge: so many rows above and below,
/// and columns on both sides, in which there is nothing. A sum over a window adds nothing for them,
/// a mean and a maximum leave them out.
class Padding {
 public:
  /// Nothing: a window stays on the picture.
  [[nodiscard]] static constexpr Padding none() { return of(0); }

  /// So many on each side.
  [[nodiscard]] static constexpr Padding of(std::int64_t width) { return {width, false}; }

  /// As many as it takes to give as many places as the picture has rows and columns; with a stride
  /// as many, divided by it and rounded up. An odd one goes below, and to the right.
  [[nodiscard]] static constexpr Padding keeping_size() { return {0, true}; }

  [[nodiscard]] constexpr bool keeps_size() const { return keeps_size_; }

  /// How wide it is, where that was said; else 0.
  [[nodiscard]] constexpr std::int64_t width() const { return width_; }

  friend bool operator==(const Padding&, const Padding&) = default;

 private:
  constexpr Padding(std::int64_t width, bool keeps_size) : width_(width), keeps_size_(keeps_size) {}

  std::int64_t width_;
  bool keeps_size_;
};

/// A window that goes over the rows and columns of pictures, from place to place.
struct Window {
  std::int64_t rows = 2;
  std::int64_t columns = 2;
  std::int64_t stride = 1;  ///< rows from one place to the next one down, and columns across
  Padding padding = Padding::none();

  friend bool operator==(const Window&, const Window&) = default;
};

/// The places of a window along one axis of a picture.
struct WindowAxis {
  std::int64_t extent = 1;  ///< of the picture
  std::int64_t window = 1;
  std::int64_t stride = 1;
  std::int64_t before = 0;  ///< how far the first window reaches over the edge
  std::int64_t places = 1;

  /// The position under one of the window's positions; outside the picture it is below 0, or
  /// `extent` and more.
  [[nodiscard]] std::int64_t under(std::int64_t place, std::int64_t of_window) const {
    return place * stride - before + of_window;
  }
  [[nodiscard]] bool is_inside(std::int64_t position) const {
    return position >= 0 && position < extent;
  }

  /// The window's first position on the picture at a place, and one after its last.
  [[nodiscard]] std::int64_t first(std::int64_t place) const {
    const std::int64_t start = under(place, 0);
    return start < 0 ? -start : 0;
  }
  [[nodiscard]] std::int64_t end(std::int64_t place) const {
    const std::int64_t left = extent - under(place, 0);
    return left < window ? left : window;
  }
};

/// The places of a window on pictures.
struct WindowPlaces {
  WindowAxis down;
  WindowAxis across;
};

/// Where a window stands on pictures [… × row × column × channel].
/// @throws SettingError for a window, a stride or a padding that cannot be; ShapeError for a shape
///         of fewer axes, and for a window that is larger than the picture with its padding.
[[nodiscard]] WindowPlaces places_of(const Window& window, const Shape& pictures);

/// The shape of what a window gives: a number for each place and channel, in front of which all
/// axes stay.
[[nodiscard]] Shape places_shape(const WindowPlaces& places, const Shape& pictures,
                                 std::int64_t channels);

/// `5x3`, `3x3 stride 2 padding 1`, `2x2 keeping size`.
[[nodiscard]] std::string to_string(const Window& window);

}  // namespace lattice
