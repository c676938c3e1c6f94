#pragma once

#include "lattice/tensor/arithmetic.hpp"
#include "lattice/worksheet/operations/form.hpp"
#include "lattice/worksheet/worksheet.hpp"

namespace lattice {

/// How numbers are normalised.
struct NormalisationSettings {
  double epsilon = 1e-5;       ///< added to the variance: what never varies has a root to divide by
  Form form = Form::one_line;  ///< fused, or written out in primitive lines
};

/// (x − mean)/√(variance + epsilon)·scale + shift: numbers brought to a mean of 0 and a spread of
/// 1, and from there to a mean and a spread of their own. All others are stretched to the shape of
/// x.
/// @throws ShapeError when one of them does not stretch to it; SettingError for an `epsilon` that
///         is not above 0.
template <Operand X>
[[nodiscard]] X normalised(const X& x, const X& mean, const X& variance, const X& scale,
                           const X& shift, const NormalisationSettings& settings = {});

/// What was normalised, and by what: of axes that are not the first ones, with an extent of 1 in
/// their place.
template <class X>
struct Normalised {
  X result;
  X mean;
  X variance;
};

/// The same by the mean and the variance of x itself along some axes: over the examples of a
/// minibatch, and the places of its pictures, that is batch normalisation; over the numbers of each
/// example, layer normalisation. Fused, what goes back through the mean and the variance is in what
/// the result passes on to x, and these two lines get no gradient.
///
/// @code
/// const Line x = sheet.given("x", uniform({8, 3}, 0.0, 9.0, random));
/// const Line scale = sheet.weight("scale", tensor({1, 1, 1}));
/// const Line shift = sheet.weight("shift", tensor({0, 0, 0}));
/// normalised_along(x, scale, shift, {.axes = {0}}).result;   // each column by itself
/// @endcode
/// Source: Ioffe and Szegedy, 2015; Ba, Kiros and Hinton, 2016.
/// @throws as `normalised` and `mean` do.
template <Operand X>
[[nodiscard]] Normalised<X> normalised_along(const X& x, const X& scale, const X& shift,
                                             const Along& along,
                                             const NormalisationSettings& settings = {});

}  // namespace lattice
