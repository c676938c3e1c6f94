#pragma once

#include <cstdint>
#include <optional>
#include <type_traits>

#include "lattice/pictures/window.hpp"
#include "lattice/worksheet/operations/form.hpp"
#include "lattice/worksheet/worksheet.hpp"

/// Operations with windows on pictures [… × row × column × channel], such as a minibatch
/// [example × row × column × channel].
namespace lattice {

/// The settings of a convolution.
template <class X>
struct ConvolutionSettings {
  std::optional<X> bias = std::nullopt;  ///< [channel out], added to each sum

  /// The connections [connection × 2]: the numbers of an input and an output channel. The kernel
  /// then is [row × column × connection]. Gets no gradient.
  std::optional<X> table = std::nullopt;

  std::int64_t stride = 1;
  Padding padding = Padding::none();
  Form form = Form::one_line;  ///< written out, the bias is added in a line of its own
};

/// The settings of a convolution of operands of a type.
template <class X>
using ConvolutionSettingsFor = ConvolutionSettings<std::type_identity_t<X>>;

/// At each position of the kernel on a picture, the sum of products of its numbers with those of
/// the picture, for each output channel. The kernel is [row × column × channel in × channel out].
/// It is not flipped: in signal processing this is called a cross-correlation.
///
/// @code
/// const Line tiles = sheet.given("tiles", zeros({2, 6, 6, 3}));
/// const Line edges = sheet.weight("edges", normal({3, 3, 3, 4}, 0, 0.2, random));
/// convolution(tiles, edges);                                    // [2 × 4 × 4 × 4]
/// convolution(tiles, edges, {.padding = Padding::keeping_size()}) // [2 × 6 × 6 × 4]
/// @endcode
/// @throws ShapeError when pictures, kernel, bias and table do not fit each other, or the kernel is
///         larger than the picture; SettingError for an impossible stride or padding; IndexError
///         for a table with a channel that does not exist.
template <Operand X>
[[nodiscard]] X convolution(const X& x, const X& kernel,
                            const ConvolutionSettingsFor<X>& settings = {});

/// The maximum in each window, channel by channel. In the reverse sweep the first of equal maxima
/// gets the gradient.
/// @throws ShapeError, SettingError as `places_of` does.
template <Operand X>
[[nodiscard]] X max_pooling(const X& x, const Window& window);

/// The mean of each window, channel by channel; at the border, of the numbers on the picture.
/// @throws as `max_pooling` does.
template <Operand X>
[[nodiscard]] X mean_pooling(const X& x, const Window& window);

}  // namespace lattice
