#pragma once

#include "lattice/pictures/moving.hpp"
#include "lattice/worksheet/worksheet.hpp"

namespace lattice {

/// Augmented pictures, each by its own move. A rotated picture is interpolated bilinearly.
///
/// @code
/// const Tensor picture = reshape(evenly_spaced(0, 15, 16), {1, 4, 4, 1});
/// const PictureMove move{.flips_across = true, .right = 1};
/// augmented(picture, as_tensor(std::vector{move}), Around::of(0));
/// @endcode
/// @param pictures [example × row × column × channel]
/// @param moves [example × 6], as from `as_tensor`; gets no gradient
/// @throws ShapeError for other shapes; NumberError for a move that is not finite, or beyond
///         `farthest_move`.
template <Operand X>
[[nodiscard]] X augmented(const X& pictures, const X& moves, const Around& around = Around::edge());

}  // namespace lattice
