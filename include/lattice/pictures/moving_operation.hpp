#pragma once

#include "lattice/pictures/moving.hpp"
#include "lattice/worksheet/worksheet.hpp"

namespace lattice {

/// Pictures moved about, each as its own move says. Of a picture that is turned, each number is
/// made of the four nearest, of each as much as it is near (bilinear).
///
/// @code
/// const Tensor picture = reshape(evenly_spaced(0, 15, 16), {1, 4, 4, 1});
/// const PictureMove move{.flips_across = true, .right = 1};
/// augmented(picture, as_tensor(std::vector{move}), Around::of(0));
/// @endcode
/// @param pictures [example × row × column × channel]
/// @param moves [example × 6], as `as_tensor` makes it; no gradient goes there
/// @throws ShapeError for other shapes; NumberError for a move that is no number, or beyond
///         `farthest_move`.
template <Operand X>
[[nodiscard]] X augmented(const X& pictures, const X& moves, const Around& around = Around::edge());

}  // namespace lattice
