#pragma once

#include <cstdint>
#include <optional>
#include <span>
#include <string>
#include <vector>

#include "lattice/tensor/tensor.hpp"

/// How one picture is augmented, as numbers and in words.
namespace lattice {

/// What fills the area that a moved picture no longer covers.
class Around {
 public:
  /// The numbers at its edge, repeated.
  [[nodiscard]] static Around edge() { return {}; }

  /// One number everywhere.
  [[nodiscard]] static Around of(double number) {
    Around around;
    around.number_ = number;
    return around;
  }

  /// The number; nothing if the edge is repeated.
  [[nodiscard]] const std::optional<double>& number() const { return number_; }

  friend bool operator==(const Around&, const Around&) = default;

 private:
  std::optional<double> number_ = std::nullopt;
};

/// The augmentation of one picture, in this order: it is flipped, rotated around its centre,
/// shifted, and all its numbers are multiplied.
struct PictureMove {
  bool flips_across = false;  ///< left to right
  bool flips_down = false;    ///< top to bottom
  double degrees = 0.0;       ///< of the rotation, counter-clockwise
  std::int64_t down = 0;      ///< of the shift, in rows; below 0, up
  std::int64_t right = 0;     ///< of the shift, in columns; below 0, to the left
  double brightness = 1.0;    ///< the factor

  friend bool operator==(const PictureMove&, const PictureMove&) = default;
};

/// `flipped across, rotated 4.2°, 1 row up, 2 columns right, 1.1 × as bright`; `as it was`.
[[nodiscard]] std::string in_words(const PictureMove& move);

/// A move as its six numbers, in the order of `as_tensor`.
[[nodiscard]] std::vector<double> numbers_of(const PictureMove& move);

/// Moves as numbers [example × 6]: 1 where it is flipped across, 1 where it is flipped down,
/// degrees, rows down, columns to the right, brightness.
[[nodiscard]] Tensor as_tensor(std::span<const PictureMove> moves,
                               Precision precision = Precision::double_);

/// The largest number of a move: no picture has so many rows.
inline constexpr std::int64_t farthest_move = 1'000'000;

/// The count of numbers of a move.
inline constexpr std::int64_t numbers_of_a_move = 6;

/// The move of one example. @param moves [example × 6]
[[nodiscard]] PictureMove move_in(const Tensor& moves, std::int64_t example);

}  // namespace lattice
