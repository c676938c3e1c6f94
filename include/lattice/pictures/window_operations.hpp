#pragma once

#include <cstdint>
#include <optional>
#include <type_traits>

#include "lattice/pictures/window.hpp"
#include "lattice/worksheet/operations/form.hpp"
#include "lattice/worksheet/worksheet.hpp"

/// What windows give that go over pictures [… × row × column × channel], such as a minibatch of
/// them [example × row × column × channel].
namespace lattice {

/// How a kernel goes over pictures, and what belongs to it.
template <class X>
struct ConvolutionSettings {
  std::optional<X> bias = std::nullopt;  ///< [channel out]: what each sum starts from

  /// Which channel feeds which: [connection × 2], the number of a channel that comes in and of one
  /// that goes out. The kernel then is [row × column × connection]. No gradient is passed on to it.
  std::optional<X> table = std::nullopt;

  std::int64_t stride = 1;
  Padding padding = Padding::none();
  Form form = Form::one_line;  ///< written out, the bias is added in a line of its own
};

/// The settings of a convolution of operands of a type.
template <class X>
using ConvolutionSettingsFor = ConvolutionSettings<std::type_identity_t<X>>;

/// At each place of a kernel on a picture the sum of what it meets, number by number times its own:
/// a number for each place and each channel that goes out. The kernel is [row × column × channel in
/// × channel out], and is not turned: this is what practice calls a convolution, and books on
/// signals a correlation.
///
/// @code
/// const Line tiles = sheet.given("tiles", zeros({2, 6, 6, 3}));
/// const Line edges = sheet.weight("edges", normal({3, 3, 3, 4}, 0, 0.2, random));
/// convolution(tiles, edges);                                    // [2 × 4 × 4 × 4]
/// convolution(tiles, edges, {.padding = Padding::keeping_size()}) // [2 × 6 × 6 × 4]
/// @endcode
/// @throws ShapeError when pictures, kernel, bias and table do not fit each other, or the kernel is
///         larger than the picture; SettingError for a stride or a padding that cannot be;
///         IndexError for a table with a channel that is not there.
template <Operand X>
[[nodiscard]] X convolution(const X& x, const X& kernel,
                            const ConvolutionSettingsFor<X>& settings = {});

/// The largest number under each place of a window, channel by channel. On the way back the first
/// of the largest gets all.
/// @throws ShapeError, SettingError as `places_of` does.
template <Operand X>
[[nodiscard]] X max_pooling(const X& x, const Window& window);

/// The mean of the numbers under each place of a window, channel by channel. At the border it is
/// the mean of those that are on the picture.
/// @throws as `max_pooling` does.
template <Operand X>
[[nodiscard]] X mean_pooling(const X& x, const Window& window);

}  // namespace lattice
