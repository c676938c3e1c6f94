#pragma once

#include <cstdint>
#include <string>

#include "lattice/tensor/shape.hpp"

namespace lattice {

/// Empty rows above and below a picture, and columns on both sides, for windows that reach over its
/// edge. Sums over a window add 0 for them; means and maxima leave them out.
class Padding {
 public:
  /// None: a window stays on the picture.
  [[nodiscard]] static constexpr Padding none() { return of(0); }

  /// This many on each side.
  [[nodiscard]] static constexpr Padding of(std::int64_t width) { return {width, false}; }

  /// As many as the output needs to have the size of the picture; with a stride, that size divided
  /// by it and rounded up. An odd one goes below, and to the right.
  [[nodiscard]] static constexpr Padding keeping_size() { return {0, true}; }

  [[nodiscard]] constexpr bool keeps_size() const { return keeps_size_; }

  /// The width, if it was given; else 0.
  [[nodiscard]] constexpr std::int64_t width() const { return width_; }

  friend bool operator==(const Padding&, const Padding&) = default;

 private:
  constexpr Padding(std::int64_t width, bool keeps_size) : width_(width), keeps_size_(keeps_size) {}

  std::int64_t width_;
  bool keeps_size_;
};

/// A window that slides over the rows and columns of pictures.
struct Window {
  std::int64_t rows = 2;
  std::int64_t columns = 2;
  std::int64_t stride = 1;  ///< rows and columns from one position to the next
  Padding padding = Padding::none();

  friend bool operator==(const Window&, const Window&) = default;
};

/// The positions of a window along one axis of a picture.
struct WindowAxis {
  std::int64_t extent = 1;  ///< of the picture
  std::int64_t window = 1;
  std::int64_t stride = 1;
  std::int64_t before = 0;  ///< padding before the first window
  std::int64_t places = 1;

  /// The position on the picture of an element of the window; outside the picture it is below 0, or
  /// `extent` or more.
  [[nodiscard]] std::int64_t under(std::int64_t place, std::int64_t of_window) const {
    return place * stride - before + of_window;
  }
  [[nodiscard]] bool is_inside(std::int64_t position) const {
    return position >= 0 && position < extent;
  }

  /// The first position of a window on the picture, and one after its last.
  [[nodiscard]] std::int64_t first(std::int64_t place) const {
    const std::int64_t start = under(place, 0);
    return start < 0 ? -start : 0;
  }
  [[nodiscard]] std::int64_t end(std::int64_t place) const {
    const std::int64_t left = extent - under(place, 0);
    return left < window ? left : window;
  }
};

/// The positions of a window on pictures.
struct WindowPlaces {
  WindowAxis down;
  WindowAxis across;
};

/// The positions of a window on pictures [… × row × column × channel].
/// @throws SettingError for an impossible window, stride or padding; ShapeError for a shape of
/// fewer
///         axes, and for a window that is larger than the picture with its padding.
[[nodiscard]] WindowPlaces places_of(const Window& window, const Shape& pictures);

/// The output shape of a window: a number for each position and channel; other axes are unchanged.
[[nodiscard]] Shape places_shape(const WindowPlaces& places, const Shape& pictures,
                                 std::int64_t channels);

/// `5x3`, `3x3 stride 2 padding 1`, `2x2 keeping size`.
[[nodiscard]] std::string to_string(const Window& window);

}  // namespace lattice
