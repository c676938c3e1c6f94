#pragma once

#include <cstdint>
#include <optional>
#include <string_view>

#include "lattice/pictures/contrast.hpp"
#include "lattice/worksheet/worksheet.hpp"

namespace lattice {

/// The weighted mean around each pixel, over all channels, in a window with Gaussian weights (see
/// `Contrast`).
/// @param pictures [example × row × column × channel]
/// @returns [example × row × column × 1]
/// @throws as `Contrast::check` does.
template <Operand X>
[[nodiscard]] X mean_around(const X& pictures, std::int64_t size);

/// Pictures with normalised contrast, and the intermediate results.
template <Operand X>
struct Contrasted {
  X result;
  std::optional<X> level = std::nullopt;      ///< the local mean, [example × row × column × 1]
  std::optional<X> deviation = std::nullopt;  ///< the local root mean square
  std::optional<X> least = std::nullopt;      ///< its mean over a picture, the smallest divisor
};

/// Subtracts the local mean, and divides by the local root mean square, or by the mean of that over
/// the picture if it is larger, so that noise in uniform areas is not amplified.
///
/// @code
/// const Tensor picture = reshape(evenly_spaced(0, 15, 16), {1, 4, 4, 1});
/// with_contrast(picture, {.size = 3}).result;
/// @endcode
/// @throws as `Contrast::check` does.
template <Operand X>
[[nodiscard]] Contrasted<X> with_contrast(const X& pictures, const Contrast& contrast);

/// Names the lines of contrast normalisation: `raw.level`, `raw.deviation`, `raw.least`.
/// @param owner `raw`, or the name of the layer
/// @param ending a suffix of the names, such as `2`
void name_lines(const Contrasted<Line>& contrasted, std::string_view owner,
                std::string_view ending = {});

}  // namespace lattice
