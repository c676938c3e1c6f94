#pragma once

#include "lattice/tensor/axis_names.hpp"
#include "lattice/worksheet/worksheet.hpp"

namespace lattice {

/// How the numbers of a line lie, if they belong to pictures that were flattened: those of the
/// flattened pictures as [example × row × column × channel], and a weight that multiplies them as
/// [row × column × channel × unit]; without the channel if there is one. Else the shape of the
/// line. The number at an offset is the same in both.
[[nodiscard]] Shape laid_out(const Line& line);

/// The position of a number in the shape of its line, from one in either shape.
[[nodiscard]] Index as_on_line(const Line& line, const Index& at);

}  // namespace lattice
