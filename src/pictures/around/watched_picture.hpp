#pragma once

#include "lattice/files/json.hpp"
#include "lattice/show/picture_grid.hpp"

namespace lattice {

/// A picture pixel by pixel, for the page that watches a run; a large one is made smaller, as it is
/// sent again and again.
[[nodiscard]] Json watched_picture(const CaptionedPicture& captioned, const Brightness& brightness);

}  // namespace lattice
