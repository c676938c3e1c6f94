#pragma once

#include <cstdint>
#include <optional>
#include <string_view>

#include "lattice/pictures/contrast.hpp"
#include "lattice/worksheet/worksheet.hpp"

namespace lattice {

/// The mean around each place of pictures, of all channels, in a window of so many rows and columns
/// in which what is near weighs more (see `Contrast`).
/// @param pictures [example × row × column × channel]
/// @returns [example × row × column × 1]
/// @throws as `Contrast::check` does.
template <Operand X>
[[nodiscard]] X mean_around(const X& pictures, std::int64_t size);

/// Pictures whose contrast is normalised, and what that is made of.
template <Operand X>
struct Contrasted {
  X result;
  std::optional<X> level = std::nullopt;  ///< what is taken off, [example × row × column × 1]
  std::optional<X> deviation = std::nullopt;  ///< the root of the mean of squares around each place
  std::optional<X> least = std::nullopt;  ///< its mean over a picture; nothing is divided by less
};

/// Takes off the mean around each place, and divides by the root of the mean of squares around it,
/// or by the mean of these roots over the picture, where that is larger: so that plain areas do not
/// become noise.
///
/// @code
/// const Tensor picture = reshape(evenly_spaced(0, 15, 16), {1, 4, 4, 1});
/// with_contrast(picture, {.size = 3}).result;
/// @endcode
/// @throws as `Contrast::check` does.
template <Operand X>
[[nodiscard]] Contrasted<X> with_contrast(const X& pictures, const Contrast& contrast);

/// Names the lines of contrast that is normalised: `raw.level`, `raw.deviation`, `raw.least`.
/// @param owner what they belong to: `raw`, or the name of a layer
/// @param ending what their names end in, such as `2`
void name_lines(const Contrasted<Line>& contrasted, std::string_view owner,
                std::string_view ending = {});

}  // namespace lattice
