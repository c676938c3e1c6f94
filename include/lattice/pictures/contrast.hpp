#pragma once

#include <cstdint>
#include <string>
#include <string_view>

#include "lattice/data/own_scaling.hpp"
#include "lattice/tensor/shape.hpp"
#include "lattice/text/words.hpp"

namespace lattice {

/// What is normalised.
enum class ContrastKind : std::uint8_t {
  both,         ///< first the level, then the deviation
  subtractive,  ///< the level only: the local mean is subtracted
  divisive      ///< the deviation only: divided by the local root mean square
};

inline constexpr Words<ContrastKind> contrast_words = {{ContrastKind::both, ""},
                                                       {ContrastKind::subtractive, "subtractive"},
                                                       {ContrastKind::divisive, "divisive"}};

/// Local contrast normalisation: each pixel by its surroundings, a window over all channels with
/// Gaussian weights e^(−d²/2s²) at a distance of d rows and columns from its centre, with
/// s = size/6. At the border of a picture the weights inside it are rescaled to add up to 1.
///
/// Sources: Pinto, Cox and DiCarlo, 2008; Jarrett, Kavukcuoglu, Ranzato and LeCun, 2009.
struct Contrast {
  std::int64_t size = 9;  ///< rows and columns of the window; odd, 3 or more
  ContrastKind kind = ContrastKind::both;
  double epsilon = 1e-8;  ///< added to the mean of squares, so that its root is above 0

  /// @throws SettingError for an impossible window; ShapeError for an example that is no picture,
  /// or
  ///         smaller than the window.
  void check(const Shape& example) const;
  void check() const;

  /// The same as a step of preparation (`ScalingKind::own`).
  operator OwnScaling() const;

  friend bool operator==(const Contrast&, const Contrast&) = default;
};

/// `contrast 9`, `contrast 9 subtractive`, `contrast 9 divisive epsilon 0.001`.
[[nodiscard]] std::string text(const Contrast& contrast);

/// Reads those words. @throws SettingError that lists them, and as `Contrast::check` does.
[[nodiscard]] Contrast parse_contrast(std::string_view text);

}  // namespace lattice
