#pragma once

#include <cstdint>
#include <string>
#include <string_view>

#include "lattice/data/augmentation.hpp"
#include "lattice/pictures/moving.hpp"

namespace lattice {

/// How pictures are augmented, before any scaling. Their numbers are not clipped.
///
/// @code
/// const PictureAugmentation how{.most_down = 2, .most_right = 2, .flips_across = true};
/// text(how);   // "shift 2, flip across"
/// const TrainSettings settings{.augmentation = how};
/// @endcode
struct PictureAugmentation {
  std::int64_t most_down = 0;      ///< shifted by up to this many rows, down or up
  std::int64_t most_right = 0;     ///< and by up to this many columns, right or left
  Around around = Around::edge();  ///< what fills the uncovered area
  bool flips_across = false;       ///< mirrored left to right with probability ½
  bool flips_down = false;         ///< mirrored top to bottom with probability ½
  double most_degrees = 0.0;       ///< rotated by up to this angle either way; 0 to 180
  double brightness = 0.0;         ///< times 1 minus up to 1 plus this; 0 or more, below 1

  [[nodiscard]] bool empty() const;

  /// @throws SettingError for settings that are out of range.
  void check() const;

  /// The same for the training loop; the default where it is empty.
  operator Augmentation() const;

  friend bool operator==(const PictureAugmentation&, const PictureAugmentation&) = default;
};

/// `shift 2x1 filled with 0, flip across, flip down, turn 10, brightness 0.2`; `none`. A shift is
/// of rows and columns, `2` of as many of both; without `filled with` the edge goes on.
[[nodiscard]] std::string text(const PictureAugmentation& augmentation);

/// Reads those words. @throws SettingError, saying which there are.
[[nodiscard]] PictureAugmentation parse_augmentation(std::string_view text);

}  // namespace lattice
