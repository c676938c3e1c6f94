#pragma once

#include <cstdint>
#include <span>
#include <string>
#include <string_view>

#include "lattice/tensor/moving.hpp"
#include "lattice/tensor/random.hpp"

namespace lattice {

/// How pictures are moved about while a network learns from them, each anew in every epoch, so that
/// it does not overfit. They are moved as they were measured, before any scaling; their
/// numbers are not cut off anywhere.
///
/// @code
/// const Augmentation how{.most_down = 2, .most_right = 2, .flips_across = true};
/// text(how);   // "shift 2, flip across"
/// @endcode
struct Augmentation {
  std::int64_t most_down = 0;      ///< shifted by up to so many rows, down or up
  std::int64_t most_right = 0;     ///< and by so many columns, right or left
  Around around = Around::edge();  ///< what comes into sight
  bool flips_across = false;       ///< every other one, on average: left and right change places
  bool flips_down = false;         ///< the same of top and bottom
  double most_degrees = 0.0;       ///< turned by up to so much either way; 0 to 180
  double brightness = 0.0;         ///< times 1 less up to 1 more than this; 0 or more, below 1

  [[nodiscard]] bool empty() const;

  friend bool operator==(const Augmentation&, const Augmentation&) = default;
};

/// `shift 2x1 filled with 0, flip across, flip down, turn 10, brightness 0.2`; `none`. A shift is
/// of rows and columns, `2` of as many of both; without `filled with` the edge goes on.
[[nodiscard]] std::string text(const Augmentation& augmentation);

/// Reads those words. @throws SettingError, saying which there are.
[[nodiscard]] Augmentation parse_augmentation(std::string_view text);

/// An augmentation in one epoch of a run.
struct AugmentedEpoch {
  Augmentation how = {};
  Random random = Random(1);  ///< what moves are drawn from; it stays as it is
  std::int64_t epoch = 1;
};

/// The moves of some pictures, [example × 6]. Each is drawn for its epoch and its row alone: in
/// which order and by whom makes no difference.
/// @param rows their numbers in the dataset
/// @throws SettingError for an augmentation that cannot be.
[[nodiscard]] Tensor moves_for(const AugmentedEpoch& epoch, std::span<const std::int64_t> rows,
                               Precision precision = Precision::double_);

}  // namespace lattice
