#pragma once

#include "lattice/worksheet/operations/normalising.hpp"

namespace lattice {

/// `normalised` where mean and variance are those of x itself along some axes, as lines that are
/// there already: what goes back through them is in what the result passes on to x
/// (`normalised_along`).
template <Operand X>
[[nodiscard]] X normalised_of_itself(const X& x, const X& mean, const X& variance, const X& scale,
                                     const X& shift, const Along& along,
                                     const NormalisationSettings& settings);

}  // namespace lattice
